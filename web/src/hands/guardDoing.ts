import { applyEdit, guardsKept, statesOfSet, type Edit } from '@sure-hand/core/edits';
import { keyFor } from '@sure-hand/core/formats';
import { type ChannelKey, type GuardSet } from '@sure-hand/core/song';
import type { HandSession } from './handSession.js';
import type { SongControl } from './songControl.js';

type States = Omit<Edit & { kind: 'states' }, 'kind'>;

/** How many channels and single controls some states are about, in words. */
function statesWords({ channels = {}, controls = {}, scope }: States): string {
  const [many, single] = [Object.keys(channels).length, Object.keys(controls).length];
  const parts = [
    many ? `${many} ${many === 1 ? 'channel' : 'channels'}` : '',
    single ? `${single} single ${single === 1 ? 'control' : 'controls'}` : '',
    scope ? 'the write scope' : '',
  ].filter(Boolean);
  return parts.join(', ').replace(/, ([^,]*)$/, ' and $1');
}

/** What a person does with many guards at once: sets them, takes that back, keeps them under a name and brings them back. */
export class GuardDoing {
  /** What takes back the last of it; guards are no undo steps, so it stands by itself. */
  #back: States | null = null;

  constructor(
    readonly session: HandSession,
    readonly control: SongControl,
    readonly did: (sentence: string) => void,
  ) {}

  /** Whether there is something to take back. */
  get canGoBack(): boolean {
    return this.#back !== null;
  }

  /** Sets many states at once; false where all of it is so already. */
  set(states: States, words: string): boolean {
    const { song } = this.session.recorder;
    const { inverse } = applyEdit(song, { kind: 'states', ...states });
    if (!statesWords(states) || inverse?.kind !== 'states') return false;
    const { kind: _kind, ...back } = inverse;
    this.#back = back;
    this.session.act({ do: 'states', ...states }, performance.now());
    this.did(`${words}: ${statesWords(states)}. Alt+Shift+J puts it back as it was.`);
    return true;
  }

  /** Puts back what was set last. */
  back(): boolean {
    const back = this.#back;
    if (!back) return false;
    this.#back = null;
    this.session.act({ do: 'states', ...back }, performance.now());
    this.did(`As it was before: ${statesWords(back)}.`);
    return true;
  }

  /** Keeps how some channels are guarded under a name; in place of the set that has it. */
  keep(name: string, channels: readonly ChannelKey[], withScope: boolean): void {
    const { song } = this.session.recorder;
    const same = song.guardSets.find((set) => set.name === name) ?? null;
    const key = same?.key ?? keyFor(name, new Set(song.guardSets.map((set) => set.key)));
    const add = guardsKept(song, { key, name, channels, withScope });
    if (this.control.takes({ kind: 'guardSet', remove: same, add }))
      this.did(`Guards of ${channels.length} channels kept as ${name}.`);
  }

  /** Brings a set back. */
  bring(set: GuardSet): void {
    const { kind: _kind, ...states } = statesOfSet(this.session.recorder.song, set);
    if (!this.set(states, `${set.name} brought back`)) this.did(`${set.name}: all of it is so already.`);
  }

  forget(set: GuardSet): void {
    if (this.control.takes({ kind: 'guardSet', remove: set, add: null }))
      this.did(`${set.name} is not kept any more; what is guarded stays so. Undo brings it back.`);
  }
}
