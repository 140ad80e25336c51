<script setup lang="ts">
/** The clips of a stage at the desk: shown, given as a file, recorded, taken away. */
import { onUnmounted, ref, watch } from "vue";
import { of, server, type Schemas } from "@/api/client";
import { useActing } from "@/house/acting";
import ClipShow from "./ClipShow.vue";

const props = defineProps<{ clips: Schemas["Clip"][]; song: number; where: { first: number; last: number; order: string; stage: string }; isEditing: boolean }>();
const emit = defineEmits<{ changed: [] }>();
const { complaint, act } = useActing();
const isBusy = ref(false);
const recorder = ref<MediaRecorder | null>(null);
const picture = ref<HTMLVideoElement | null>(null);

async function attempt(what: () => Promise<void>): Promise<void> {
  isBusy.value = true;
  await act(what);
  isBusy.value = false;
}
const give = (file: Blob, name: string) => attempt(async () => {
  const body = new FormData();
  for (const [key, value] of Object.entries(props.where)) body.append(key, String(value));
  body.append("file", file, name);
  await server.POST("/api/songs/{id}/clips", { params: of(props.song), body: body as never, bodySerializer: (b: unknown) => b as FormData });
  emit("changed");
});
const take = (id: number) => attempt(async () => {
  await server.DELETE("/api/clips/{id}", { params: of(id) });
  emit("changed");
});
function choose(event: Event): void {
  const input = event.target as HTMLInputElement;
  const file = input.files?.[0];
  input.value = "";
  if (file) void give(file, file.name);
}
async function record(withPicture: boolean): Promise<void> {
  try {
    const stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false }, video: withPicture });
    const own = new MediaRecorder(stream);
    const parts: Blob[] = [];
    own.ondataavailable = (e) => parts.push(e.data);
    own.onstop = () => {
      stream.getTracks().forEach((t) => t.stop());
      recorder.value = null;
      void give(new Blob(parts, { type: own.mimeType }), withPicture ? "recorded video" : "recorded sound");
    };
    own.start();
    recorder.value = own;
  } catch (problem) {
    complaint.value = `The ${withPicture ? "camera" : "microphone"} could not be used: ${(problem as Error).message}`;
  }
}
watch([recorder, picture], ([own, shown]) => {
  if (shown) shown.srcObject = own?.stream ?? null;
});
onUnmounted(() => recorder.value?.stop());
</script>

<template>
  <div v-if="clips.length || isEditing" class="own">
    <ClipShow :clips="clips" from="/api/clips">
      <template #default="{ clip }"><button v-if="isEditing" class="plain" :disabled="isBusy" :aria-label="`Take the clip ${clip.name} away`" @click="take(clip.id)"><i class="pi pi-times" aria-hidden="true" /></button></template>
    </ClipShow>
    <div v-if="isEditing" class="line" role="group" aria-label="A clip for this stage">
      <label class="plain">Clip from a file<input type="file" accept="audio/*,video/*" class="unseen" aria-label="Clip from a file" :disabled="isBusy" @change="choose"></label>
      <template v-if="!recorder"><button class="plain" @click="record(false)"><i class="pi pi-microphone" aria-hidden="true" /> Record sound</button><button class="plain" @click="record(true)"><i class="pi pi-video" aria-hidden="true" /> Record video</button></template>
      <button v-else class="plain on" @click="recorder.stop()"><i class="pi pi-stop" aria-hidden="true" /> Stop and keep</button>
      <video v-if="recorder" ref="picture" autoplay muted class="small" aria-label="What the camera sees" />
    </div>
    <p v-if="complaint" class="wrong" role="alert">{{ complaint }}</p>
  </div>
</template>

<style scoped>
.own { display: grid; gap: 0.5rem; }
.small { height: 4.5rem; border-radius: 6px; }
.line { display: flex; gap: 0.4rem; flex-wrap: wrap; align-items: center; }
.unseen { position: absolute; width: 1px; height: 1px; opacity: 0; }
.wrong { color: var(--warn); margin: 0; }
</style>
