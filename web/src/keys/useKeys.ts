/** One listener for all keys: what is open now says which rows of the table hold. */
import { computed, onScopeDispose, type ComputedRef } from "vue";
import { KEYS, row, SCOPES, type Action, type Key, type Scope } from "./table";

/** Does an action; false: it was nothing for it, the key goes on. It hears which of its row's keys it was,
 *  counted from 0, and what that key is in the table, whatever the person chose in its place. */
export type Handler = (event: KeyboardEvent, which: number, usual: string) => unknown;
export type Handlers<S extends Scope> = Record<Action<S>, Handler>;
interface Options {
  /** Whether the scope holds now. */
  isOn?: () => boolean;
  /** Whether it holds where somebody types, too. */
  whereTyped?: boolean;
}
interface Open extends Required<Options> {
  scope: Scope;
  actions: ComputedRef<Map<string, { does: Handler; which: number; usual: string }>>;
  handlers: Record<string, Handler>;
}

const open: Open[] = [];
const TYPED = "input, select, textarea, [role=dialog], [role=listbox], [role=combobox]";
const isTyping = (e: Event) => e.target instanceof HTMLElement && !!e.target.closest(TYPED);

/** The name of a key in the table: what it writes, or its name with what is held beside it. */
export function nameOf(e: KeyboardEvent): string {
  const isSign = e.key.length === 1;
  if (e.ctrlKey || e.metaKey) {
    return `Ctrl+${isSign ? (e.shiftKey ? e.key.toUpperCase() : e.key.toLowerCase()) : e.key}`;
  }
  return isSign || !e.shiftKey ? e.key : `Shift+${e.key}`;
}

function dispatch(e: KeyboardEvent): void {
  if (e.altKey || e.isComposing) return;
  const [name, typing] = [nameOf(e), isTyping(e)];
  const inner = [...open].sort((a, b) => SCOPES.indexOf(b.scope) - SCOPES.indexOf(a.scope));
  for (const o of inner) {
    const action = (!typing || o.whereTyped) && o.isOn() ? o.actions.value.get(name) : undefined;
    if (action && action.does(e, action.which, action.usual) !== false) {
      e.preventDefault();
      return;
    }
  }
}

/** Gives the actions of a scope what they do, for as long as the component (or effect scope) lives.
 */
export function useKeys<S extends Scope>(scope: S, handlers: Handlers<S>, options: Options = {}): void {
  const rows = Object.entries(KEYS[scope] as Record<string, Key>);
  const actions = computed(() => new Map(
    rows.flatMap(([name, { keys }]) =>
      row(scope, name as Action<S>).keys.map((k, which) => [k, { does: (handlers as Record<string, Handler>)[name]!, which, usual: keys[which]! }] as const),
    ),
  ));
  const own: Open = { scope, actions, handlers: handlers as Record<string, Handler>, isOn: options.isOn ?? (() => true), whereTyped: options.whereTyped ?? false };
  if (!open.length) window.addEventListener("keydown", dispatch);
  open.push(own);
  onScopeDispose(() => {
    open.splice(open.indexOf(own), 1);
    if (!open.length) window.removeEventListener("keydown", dispatch);
  });
}
/** What can be done just now by a key: an action of each open scope, and the doing of it. */
export function doable(): { scope: Scope; action: string; does: string; run: (which: number) => void }[] {
  const inner = [...open].sort((a, b) => SCOPES.indexOf(b.scope) - SCOPES.indexOf(a.scope));
  return inner.filter((o) => o.isOn()).flatMap((o) =>
    Object.entries(KEYS[o.scope] as Record<string, Key>).map(([action, k]) => ({
      scope: o.scope,
      action,
      does: k.does,
      run: (which: number) => void o.handlers[action]!(new KeyboardEvent("keydown", { key: k.keys[which] }), which, k.keys[which]!),
    })),
  );
}
/** For two keys that go back and on: -1 or 1. */
export const by = (which: number): -1 | 1 => (which === 0 ? -1 : 1);
