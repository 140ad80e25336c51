import { describe, expect, it } from "vitest";
import { useActing, whole } from "./acting";

describe("acting on a form", () => {
  it("hands on what was done and complains of nothing", async () => {
    const { complaint, act } = useActing();
    expect(await act(async () => 7)).toBe(7);
    expect(complaint.value).toBe("");
  });

  it("says what went wrong until the next thing succeeds", async () => {
    const { complaint, act } = useActing();
    expect(await act(() => Promise.reject(new Error("That name is taken.")))).toBeUndefined();
    expect(complaint.value).toBe("That name is taken.");
    await act(() => Promise.reject(new Error("Too short.")));
    expect(complaint.value).toBe("Too short.");
    await act(async () => null);
    expect(complaint.value).toBe("");
  });

  it("tells an address whole", () => {
    expect(whole("/to/abc")).toBe(`${location.origin}/to/abc`);
  });
});
