/** One listener for all keys: what is open now says which rows of the table hold. */
import { onScopeDispose } from "vue";
import { KEYS, SCOPES, type Action, type Key, type Scope } from "./table";

/** Does an action; false: it was nothing for it, the key goes on. */
export type Handler = (event: KeyboardEvent, which: number) => unknown;
export type Handlers<S extends Scope> = Record<Action<S>, Handler>;
interface Options {
  /** Whether the scope holds now. */
  isOn?: () => boolean;
  /** Whether it holds where somebody types, too. */
  whereTyped?: boolean;
}
interface Open extends Required<Options> {
  scope: Scope;
  actions: Map<string, { does: Handler; which: number }>;
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
    const action = (!typing || o.whereTyped) && o.isOn() ? o.actions.get(name) : undefined;
    if (action && action.does(e, action.which) !== false) {
      e.preventDefault();
      return;
    }
  }
}

/** Gives the actions of a scope what they do, for as long as the component (or effect scope) lives.
 *  A handler hears the event, and which of its action's keys it was, counted from 0. */
export function useKeys<S extends Scope>(scope: S, handlers: Handlers<S>, options: Options = {}): void {
  const rows = Object.entries(KEYS[scope] as Record<string, Key>);
  const actions = new Map(
    rows.flatMap(([name, { keys }]) =>
      keys.map((k, which) => [k, { does: (handlers as Record<string, Handler>)[name]!, which }] as const),
    ),
  );
  const own: Open = { scope, actions, isOn: options.isOn ?? (() => true), whereTyped: options.whereTyped ?? false };
  if (!open.length) window.addEventListener("keydown", dispatch);
  open.push(own);
  onScopeDispose(() => {
    open.splice(open.indexOf(own), 1);
    if (!open.length) window.removeEventListener("keydown", dispatch);
  });
}
/** For two keys that go back and on: -1 or 1. */
export const by = (which: number): -1 | 1 => (which === 0 ? -1 : 1);
