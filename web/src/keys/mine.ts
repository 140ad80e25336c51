/** The keys that a person chose in the place of the table's: kept here and with the account. */
import { shallowRef } from "vue";
import { brought, server } from "@/api/client";

const KEPT = "orchesis.keys";
function kept(): Record<string, string[]> {
  try {
    return JSON.parse(globalThis.localStorage?.getItem(KEPT) ?? "{}") as Record<string, string[]>;
  } catch {
    return {};
  }
}

/** By the name of a row (`bench.ghost`, `parts`): all of its keys, in the table's order. */
export const mine = shallowRef<Record<string, string[]>>(kept());

function put(keys: Record<string, string[]>): void {
  mine.value = keys;
  globalThis.localStorage?.setItem(KEPT, JSON.stringify(keys));
}
/** What the account has; without an answer, what this device kept. */
export async function findMine(): Promise<void> {
  const told = await brought(server.GET("/api/keys-of-mine")).catch(() => null);
  if (told) put(told.keys);
}
/** Other keys for some rows; none: as the table has them. */
export async function setMine(rows: Record<string, string[] | null>): Promise<void> {
  const keys = { ...mine.value };
  for (const [name, own] of Object.entries(rows)) {
    if (own) keys[name] = own;
    else delete keys[name];
  }
  put(keys);
  await server.PUT("/api/keys-of-mine", { body: { keys } });
}
