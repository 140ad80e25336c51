import { createApp, h, nextTick, ref } from "vue";
import { describe, expect, it } from "vitest";
import TypedField from "./TypedField.vue";

/** A page with one field, whose label tells how often it was drawn. */
function page(isTall = false) {
  const drawn = ref(0);
  const value = ref<string | number>("ket-TLE");
  const taken: string[] = [];
  const root = document.body.appendChild(document.createElement("div"));
  createApp({
    setup: () => () => h(TypedField, {
      isTall, value: value.value, "aria-label": `drawn ${drawn.value}`, onSet: (text: string) => taken.push(text),
    }),
  }).mount(root);
  const field = root.querySelector<HTMLInputElement>("input, textarea")!;
  const type = (text: string) => {
    field.focus();
    field.value = text;
    field.dispatchEvent(new Event("input"));
  };
  return { drawn, value, taken, field, type };
}

describe("a field that counts once one leaves it", () => {
  it.each([false, true])("keeps what is being typed when the page is drawn anew (tall: %s)", async (isTall) => {
    const { drawn, taken, field, type } = page(isTall);
    type("a-WAKE");
    drawn.value++;
    await nextTick();
    expect(field.getAttribute("aria-label")).toBe("drawn 1");
    expect(field.value).toBe("a-WAKE");
    expect(taken).toEqual([]);
    field.dispatchEvent(new Event("change"));
    expect(taken).toEqual(["a-WAKE"]);
  });

  it("shows what the desk made of it", async () => {
    const { value, field, type } = page();
    type("7");
    field.dispatchEvent(new Event("change"));
    value.value = 4;
    await nextTick();
    expect(field.value).toBe("4");
  });
});
