/** What is done on a form: one complaint, said until the next thing succeeds. */
import { ref } from "vue";

export function useActing() {
  const complaint = ref("");
  async function act<T>(what: () => Promise<T>): Promise<T | undefined> {
    try {
      const done = await what();
      complaint.value = "";
      return done;
    } catch (problem) {
      complaint.value = (problem as Error).message;
      return undefined;
    }
  }
  return { complaint, act };
}
/** An address of this house, whole, to be handed on. */
export const whole = (address: string) => `${location.origin}${address}`;
