declare module "signalsmith-stretch" {
  export interface Change {
    output?: number;
    active?: boolean;
    input?: number;
    rate?: number;
    semitones?: number;
    loopStart?: number;
    loopEnd?: number;
  }
  export interface StretchNode extends AudioNode {
    inputTime: number;
    schedule(change: Change): Promise<unknown>;
    addBuffers(channels: Float32Array[]): Promise<number>;
    dropBuffers(to?: number): Promise<{ start: number; end: number }>;
    latency(): Promise<number>;
  }
  export default function SignalsmithStretch(
    context: BaseAudioContext,
    options?: AudioWorkletNodeOptions,
  ): Promise<StretchNode>;
}
