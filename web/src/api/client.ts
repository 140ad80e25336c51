/** The one way to the server. Every failure becomes a `Refusal` with one sentence. */
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Song = Schemas["Song"];
export type Take = Schemas["Take"];
export type Job = Schemas["Job"];
export type Transcription = Schemas["Transcription"];
export type Score = Schemas["Score"];
export type Stroke = Schemas["Stroke"];
export type UnplacedStroke = Schemas["UnplacedStroke"];
export type Section = Schemas["Section"];
/** A change of a song, as it is sent: one kind an operation. */
export type Edit = Schemas["EditRequest"]["edit"];
export type PartName = Stroke["part"];
export type StrokeEdit = Schemas["Many"]["edits"][number];
export type Patch = Schemas["Patch"];
export type EditResult = Schemas["EditResult"];
export type Offer = Schemas["Offer"];
export type Doubt = Schemas["Doubt"];
export type Sound = Schemas["Sound"];
export type Review = Schemas["Review"];
export type Groove = Schemas["Groove"];
export type Option = Schemas["Option"];
export type ToldFill = Schemas["ToldFill"];
export type KeptFill = Schemas["KeptFill"];
export type SectionFeel = Schemas["SectionFeel"];
export type Comparison = Schemas["Comparison"];

export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** What a refused edit and somebody else changed meanwhile. */
    readonly clash: { bars: number[]; sections: string[] } | null = null,
  ) {
    super(message);
  }

  /** The server or the way to it is away for the moment: worth trying again. */
  get isPassing(): boolean {
    return this.status === 0 || this.status === 502 || this.status === 503;
  }
}

const AWAY = "The server can't be reached; try again in a moment.";

function csrf(): string {
  return /csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

async function refusal(response: Response): Promise<Refusal> {
  const fallback = `The server answered ${response.status}; try again.`;
  try {
    const body = (await response.json()) as { detail?: string; clash?: boolean; bars?: number[]; sections?: string[] };
    const clash = body.clash ? { bars: body.bars ?? [], sections: body.sections ?? [] } : null;
    return new Refusal(body.detail ?? fallback, response.status, clash);
  } catch {
    return new Refusal(fallback, response.status);
  }
}

/** The arrangement that the page shows of a song; 0: the part as it was recorded. */
export const shownArrangement = { song: 0, id: 0 };
/** An address of a song's with the arrangement that is shown. */
export function inArrangement(address: string): string {
  const { song, id } = shownArrangement;
  if (!id || !new RegExp(`/api/songs/${song}/(?!arrangements)`).test(address)) return address;
  return `${address}${address.includes("?") ? "&" : "?"}arrangement=${id}`;
}

/** The server's calls by their paths, typed by its schema: `brought(server.GET("/api/session"))`. */
export const server = createClient<paths>({
  baseUrl: globalThis.location?.origin,
  fetch: (request) => globalThis.fetch(request),
});
server.use({
  onRequest: ({ request }) => {
    const address = inArrangement(request.url);
    const sent = address === request.url ? request : new Request(address, request);
    sent.headers.set("X-CSRFToken", csrf());
    return sent;
  },
  onResponse: async ({ response }) => {
    if (!response.ok) throw await refusal(response);
  },
  onError: () => new Refusal(AWAY, 0),
});

/** What a call brings; every failure is thrown as a `Refusal`. */
export async function brought<T>(call: Promise<{ data?: T }>): Promise<T> {
  return (await call).data as T;
}

/** The path of a song, or of another thing with a number. */
export const of = (id: number) => ({ path: { id } });

const RETRY_MS = 1500;

/** Try again for as long as the server is only away for the moment; `told` hears why, then "",
 *  whether the last answer was what was asked for or a refusal that stands. */
export async function retryWhileAway<T>(
  act: () => Promise<T>,
  told: (why: string) => void = () => {},
  isWanted: () => boolean = () => true,
): Promise<T> {
  for (;;) {
    try {
      const done = await act();
      told("");
      return done;
    } catch (problem) {
      if (!(problem instanceof Refusal && problem.isPassing && isWanted())) {
        if (isWanted()) told("");
        throw problem;
      }
      told(problem.message);
      await new Promise((done) => setTimeout(done, RETRY_MS));
    }
  }
}

export async function askBytes(path: string): Promise<ArrayBuffer> {
  const response = await fetch(`/api/${path}`).catch(() => {
    throw new Refusal(AWAY, 0);
  });
  if (!response.ok) throw await refusal(response);
  return response.arrayBuffer();
}

/** Send a recording; `told` hears the share that is sent (0..1). */
export function upload(songId: number, file: File, told: (share: number) => void): Promise<Take> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/songs/${songId}/takes`);
    request.setRequestHeader("X-CSRFToken", csrf());
    request.upload.onprogress = (e) => told(e.lengthComputable ? e.loaded / e.total : 0);
    request.onerror = () => reject(new Refusal("The upload broke off; choose the file again.", 0));
    request.onload = () => {
      let answer: unknown = null;
      try {
        answer = JSON.parse(request.responseText);
      } catch {
        answer = {};
      }
      if (request.status === 201) resolve(answer as Take);
      else {
        const detail = (answer as { detail?: string }).detail;
        reject(new Refusal(detail ?? "The upload was refused; try again.", request.status));
      }
    };
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}
