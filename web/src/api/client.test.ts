import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { retryWhileAway, Refusal } from "./client";

describe("retryWhileAway", () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  /** Answers in turn: a refusal is thrown, anything else is given. */
  function answering(...answers: unknown[]): () => Promise<unknown> {
    return async () => {
      const answer = answers.shift();
      if (answer instanceof Error) throw answer;
      return answer;
    };
  }
  const away = new Refusal("The database does not answer just now.", 503);

  it("asks again while the server is away and takes its words back at the answer", async () => {
    const told: string[] = [];
    const done = retryWhileAway(answering(away, new Refusal("Unreachable.", 0), "a song"), (why) => told.push(why));
    await vi.runAllTimersAsync();
    expect(await done).toBe("a song");
    expect(told).toEqual([away.message, "Unreachable.", ""]);
  });

  it("takes its words back before a refusal that stands, too", async () => {
    const told: string[] = [];
    const done = retryWhileAway(answering(away, new Refusal("No such song.", 404)), (why) => told.push(why));
    const refused = expect(done).rejects.toThrow("No such song.");
    await vi.runAllTimersAsync();
    await refused;
    expect(told).toEqual([away.message, ""]);
  });

  it("gives up without a word once nobody waits any more", async () => {
    const told: string[] = [];
    let isWanted = true;
    const done = retryWhileAway(answering(away, away), (why) => told.push(why), () => isWanted);
    const refused = expect(done).rejects.toThrow(away.message);
    await vi.advanceTimersByTimeAsync(0);
    isWanted = false;
    await vi.runAllTimersAsync();
    await refused;
    expect(told).toEqual([away.message]);
  });
});
