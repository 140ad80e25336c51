import { beforeEach, describe, expect, it, vi } from "vitest";
import { findMine, mine, setMine } from "./mine";

let account: Record<string, string[]> | "away";
let sent: unknown[];
beforeEach(() => {
  localStorage.clear();
  [account, sent, mine.value] = [{}, [], {}];
  vi.stubGlobal("fetch", async (request: Request) => {
    if (account === "away") throw new TypeError("network");
    if (request.method === "PUT") {
      const body = (await request.json()) as { keys: Record<string, string[]> };
      sent.push(body.keys);
      account = body.keys;
    }
    return Response.json({ keys: account });
  });
});
const onDevice = () => JSON.parse(localStorage.getItem("orchesis.keys") ?? "null") as unknown;

describe("keys of one's own", () => {
  it("come from the account and are kept on the device too", async () => {
    account = { "bench.ghost": ["g"] };
    await findMine();
    expect(mine.value).toEqual({ "bench.ghost": ["g"] });
    expect(onDevice()).toEqual({ "bench.ghost": ["g"] });
  });

  it("are those of the device while the house is away", async () => {
    mine.value = { "bench.ghost": ["u"] };
    account = "away";
    await findMine();
    expect(mine.value).toEqual({ "bench.ghost": ["u"] });
  });

  it("hold at once, and are sent whole", async () => {
    await setMine({ "bench.ghost": ["g"] });
    await setMine({ parts: ["a", "b"] });
    expect(mine.value).toEqual({ "bench.ghost": ["g"], parts: ["a", "b"] });
    expect(sent.at(-1)).toEqual({ "bench.ghost": ["g"], parts: ["a", "b"] });
  });

  it("are given back to the table row by row", async () => {
    await setMine({ "bench.ghost": ["g"], parts: ["a", "b"] });
    await setMine({ parts: null });
    expect(mine.value).toEqual({ "bench.ghost": ["g"] });
    expect(onDevice()).toEqual({ "bench.ghost": ["g"] });
  });

  it("that the account could not be told of hold on the device all the same", async () => {
    account = "away";
    await expect(setMine({ "bench.ghost": ["g"] })).rejects.toThrow();
    expect(onDevice()).toEqual({ "bench.ghost": ["g"] });
  });

  it("kept by a device in a way that can't be read are none", async () => {
    localStorage.setItem("orchesis.keys", "{broken");
    vi.resetModules();
    const again = await import("./mine");
    expect(again.mine.value).toEqual({});
  });
});
