/** Keys that a widget needs for itself, where a keyboard has led to it. All else is the song's, Space and Esc among it. */
const ARROWS = ['up', 'down', 'left', 'right'];
const ENDS = ['home', 'end', 'pageup', 'pagedown'];
const KEPT: readonly (readonly [selector: string, keys: readonly string[]])[] = [
  ['button, a[href], summary, [role="button"], input[type="checkbox"]', ['enter']],
  ['input[type="radio"], [role="tab"], [role="separator"]', ARROWS],
  ['[role="slider"], input[type="range"], select, [role="spinbutton"]', [...ARROWS, ...ENDS]],
  ['[role="combobox"], [aria-haspopup="listbox"]', [...ARROWS, 'enter', 'home', 'end']],
];
/** What an open list or menu needs. */
const OF_LISTS = [...ARROWS, ...ENDS, 'enter', 'escape', 'tab', 'shift+tab'];
const LISTS = '[role="menu"], [role="listbox"], [role="combobox"][aria-expanded="true"]';
/** A part of the page that Tab walks through as through any page. */
const WALKED = 'header, footer, .sheet, [data-walked]';

/** Whether something takes what is typed as text: it keeps every key. */
export function isTextField(element: Element | null): boolean {
  if (element instanceof HTMLTextAreaElement) return !element.readOnly;
  if (element instanceof HTMLInputElement)
    return (
      !element.readOnly && !['checkbox', 'radio', 'range', 'button', 'submit', 'file', 'color'].includes(element.type)
    );
  return element instanceof HTMLElement && element.isContentEditable;
}

/**
 * Whether a key belongs to what has the focus rather than to the song. `byPointer`: a pointer has given it the focus, and keys go on to
 * act on the control in hand as if it had not. `data-keeps` names keys that something keeps that has a way of its own with them.
 */
export function keepsKey(element: Element | null, name: string, byPointer: boolean): boolean {
  if (!element || element === document.body) return false;
  if (element.closest(LISTS)) return OF_LISTS.includes(name);
  if (name === 'tab' || name === 'shift+tab') return element.closest(WALKED) !== null;
  // Enter keeps what a sheet is about.
  if (name === 'enter' && element.closest('.sheet')) return true;
  if (element.closest<HTMLElement>('[data-keeps]')?.dataset.keeps?.split(' ').includes(name)) return true;
  return !byPointer && KEPT.some(([selector, keys]) => keys.includes(name) && element.matches(selector));
}

/** A list or menu that lies open over the page. What is closed may stand in the page unseen. */
const openList = (): Element | undefined =>
  [...document.querySelectorAll('[role="listbox"], [role="menu"], [role="dialog"]:not(.sheet)')].find(
    (list) => list.getClientRects().length > 0,
  );

/** Has Esc close a list or menu that lies open over the page, whether or not it has come to have the focus yet; whether there was one. */
export function escapeList(): boolean {
  const list = openList();
  if (!list) return false;
  if (!list.contains(document.activeElement))
    list.dispatchEvent(
      new KeyboardEvent('keydown', { key: 'Escape', code: 'Escape', bubbles: true, cancelable: true }),
    );
  return true;
}

/** Turns over what a keyboard has led to and Enter does not turn over by itself: Space is the song's. Whether it did. */
export function enterTurns(element: Element | null, byPointer: boolean): boolean {
  const isOne = !byPointer && element instanceof HTMLInputElement && element.type === 'checkbox';
  if (isOne) element.click();
  return isOne;
}

/** Esc goes to a field of text: once that has done its own with it and still has the focus, it gives up what was typed and is left. */
export function leavesField(field: HTMLElement): void {
  setTimeout(() => {
    if (document.activeElement !== field) return;
    // One that keeps what stands in it as it is left finds nothing new there; what is kept while it is typed is its default already.
    if (field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement) field.value = field.defaultValue;
    field.blur();
  });
}
