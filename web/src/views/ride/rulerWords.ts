import { barLines, type MeterMap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';

/** Something that is written above the lanes: a section's name or a bar's number, where it begins and how wide it is. */
export type RulerWord = {
  readonly what: 'section' | 'bar';
  readonly text: string;
  readonly x: number;
  readonly width: number;
};

/** Space before a word, and between it and the next; narrower than the least a name is not written at all. */
const SPACE = { before: 5, between: 8, leastName: 18 } as const;
/** Bar lines stand at least so far from each other, numbered ones at least so far. */
const APART = { lines: 12, numbers: 38 } as const;
/** Every so many bars, by powers of two: a phrase stays a phrase at any zoom. */
const STEPS = [1, 2, 4, 8, 16, 32, 64, 128];

/** Every how many bars a line, or a number, stands: one density for the whole song, whatever its meters are. */
export function barsApart(map: MeterMap, length: Seconds, pxPerSec: number, what: keyof typeof APART): number {
  const bars = barLines(map, 0, Math.max(length, 1e-3));
  const perBar = (pxPerSec * length) / Math.max(1, bars.length);
  return STEPS.find((n) => perBar * n >= APART[what]) ?? STEPS.at(-1)!;
}

export type RulerScene = {
  readonly map: MeterMap;
  readonly length: Seconds;
  readonly sections: readonly { readonly t: Seconds; readonly name: string }[];
  readonly pxPerSec: number;
  readonly xOf: (t: Seconds) => number;
  /** The stretch that is written over: from its first to its last pixel, and the times there. */
  readonly from: number;
  readonly to: number;
  readonly fromSec: Seconds;
  readonly toSec: Seconds;
  readonly widthOf: (text: string, what: RulerWord['what']) => number;
};

/** What is written on the ruler, none over another: section names first, then bar numbers where there is room for them. */
export function rulerWords(scene: RulerScene): RulerWord[] {
  const names = sectionNames(scene);
  const taken = [...names];
  const isFree = (x: number, width: number): boolean =>
    taken.every((one) => x >= one.x + one.width + SPACE.between || x + width + SPACE.between <= one.x);
  const every = barsApart(scene.map, scene.length, scene.pxPerSec, 'numbers');
  for (const { bar, t } of barLines(scene.map, Math.max(0, scene.fromSec), Math.min(scene.length, scene.toSec))) {
    if ((bar - 1) % every) continue;
    const text = String(bar);
    const width = scene.widthOf(text, 'bar');
    const x = scene.xOf(t) + SPACE.before;
    if (x >= scene.from && x + width <= scene.to && isFree(x, width)) taken.push({ what: 'bar', text, x, width });
  }
  return taken;
}

/** Names of sections, each as far as the next one begins; one that began out of sight stands at the edge. */
function sectionNames({ sections, length, xOf, from, to, widthOf }: RulerScene): RulerWord[] {
  return sections.flatMap(({ t, name }, i): RulerWord[] => {
    const end = Math.min(to, xOf(sections[i + 1]?.t ?? length));
    const x = Math.max(from, xOf(t)) + SPACE.before;
    const room = end - x - SPACE.between;
    if (room < SPACE.leastName || x > to) return [];
    const text = fitted(name, room, (part) => widthOf(part, 'section'));
    return text ? [{ what: 'section', text, x, width: widthOf(text, 'section') }] : [];
  });
}

/** A text cut to a width, with a sign that it goes on; nothing where not even two letters fit. */
function fitted(text: string, room: number, widthOf: (text: string) => number): string {
  if (widthOf(text) <= room) return text;
  for (let n = text.length - 1; n >= 2; n--) {
    const cut = `${text.slice(0, n).trimEnd()}…`;
    if (widthOf(cut) <= room) return cut;
  }
  return '';
}
