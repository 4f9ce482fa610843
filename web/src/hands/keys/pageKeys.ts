import { NO_LAYOUT, namesOfKey, type KeyPressed, type Layout } from './keyNames.js';

/** What Esc may end: it says whether there was anything to end. */
type Escape = () => boolean;

const gestures: Escape[] = [];
const sheets: Escape[] = [];
let taker: ((name: string | null) => void) | null = null;

const put = (list: Escape[], escape: Escape): (() => void) => {
  list.push(escape);
  return () => void list.splice(list.indexOf(escape), 1);
};

/** While a hand drags something, Esc gives that up and does nothing else. Gives back what ends that. */
export const giveUpByEscape = (escape: Escape): (() => void) => put(gestures, escape);
/** While a sheet is open Esc closes it and does nothing else; the one that was opened last, first. Gives back what ends that. */
export const closeByEscape = (close: () => void): (() => void) =>
  put(sheets, () => {
    close();
    return true;
  });

const heard = new Set<() => void>();
/** Is told of every Esc, whatever that ends. Gives back what ends that. */
export function hearEscape(listener: () => void): () => void {
  heard.add(listener);
  return () => void heard.delete(listener);
}
export const tellEscape = (): void => {
  for (const listener of heard) listener();
};

const any = (list: readonly Escape[]): boolean => [...list].reverse().some((escape) => escape());
/** Ends what a hand drags; whether there was anything. */
export const escapeGesture = (): boolean => any(gestures);
/** Closes the sheet that was opened last; whether there was one. */
export const escapeSheet = (): boolean => any(sheets);

/** The next key that is pressed is wanted for itself: it does nothing else. Null: Esc, which gives that up. Gives back what ends it. */
export function takeNextKey(take: (name: string | null) => void): () => void {
  taker = take;
  return () => {
    if (taker === take) taker = null;
  };
}

/** Gives a press to whoever wants the next one; whether somebody did. Shift and the like are no keys by themselves. */
export function giveKey(event: KeyPressed): boolean {
  if (!taker) return false;
  const [name] = namesOfKey(event, layout);
  if (!name) return true;
  const take = taker;
  taker = null;
  take(name === 'escape' ? null : name);
  return true;
}

let layout: Layout = NO_LAYOUT;
const listeners = new Set<() => void>();

/** What the keyboard types, as far as the browser says it. */
export const keyboardLayout = (): Layout => layout;

/** Calls back as another layout is known of; gives back what ends it. */
export function onKeyboardLayout(listener: () => void): () => void {
  listeners.add(listener);
  return () => void listeners.delete(listener);
}

type Keyboard = { readonly getLayoutMap?: () => Promise<Layout> };

/** Asks the browser for the keyboard's layout, where it tells: it may be another each time the page is come back to. */
export async function readKeyboardLayout(): Promise<void> {
  const { keyboard } = navigator as Navigator & { readonly keyboard?: Keyboard };
  const read = await keyboard?.getLayoutMap?.().catch(() => null);
  if (!read) return;
  layout = new Map(read);
  for (const listener of listeners) listener();
}
