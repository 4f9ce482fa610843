import { valueAt, type Range } from '../curve/index.js';
import type { HandEvent } from '../pass/index.js';
import {
  controlOf,
  controlsOf,
  isInDb,
  isSwitch,
  laneOf,
  type ControlId,
  type ControlKind,
  type Layer,
  type Mode,
  type Reason,
  type Song,
} from '../song/index.js';
import { MAX_LEVEL_DB, SILENCE_DB, TRIM_LAW, travelOf, valueOf, type Law } from '../units/index.js';

/**
 * A slow, obvious model of the rules' sections 4 and 5, written from them alone: a curve is a function of time, a pass
 * puts functions over it, and every rule is asked of every control at every event. It shares no decision with the
 * recorder, only units and the reading of the song it begins with.
 */

type Curve = (t: number) => number;
type Value = { readonly t: number; readonly v: number };
type SlowSpan = {
  readonly from: number;
  to: number | null;
  readonly values: Value[];
  /** A return line: from the release on, to where it lands. */
  line: { readonly from: Value; readonly lands: Value } | null;
  moves: number;
};
type Layers<T> = { base: T; trim: T };
type SlowFinger = {
  value: number;
  readonly reason: Reason | null;
  /** Without a touch sensor it is released by itself. */
  releaseAt: number | null;
  letGo: boolean;
  mustTouchAnew: boolean;
  wrote: boolean;
  rested: boolean;
  reported: boolean;
  refusedStopped: boolean;
  /** The control whose hand leads this one; null for a hand of its own. */
  leader: ControlId | null;
  /** Where the touch began, in travel of the throw in hand; a led one's may lie past the throw's ends. */
  began: number;
  /** It holds its control aside. */
  aside: boolean;
  /** It has the base in hand whatever its channel trims. */
  onBase: boolean;
  /** Of a led one: a hand, let go of, that is still down on the control. */
  under: SlowFinger | null;
};
type SlowControl = {
  readonly id: ControlId;
  readonly channel: string;
  readonly kind: ControlKind;
  readonly laws: Layers<Law>;
  readonly isSwitch: boolean;
  readonly inDb: boolean;
  rest: number;
  curves: Layers<Curve | null>;
  safe: boolean;
  parked: boolean;
  finger: SlowFinger | null;
  poised: number | null;
  /** Where it is held aside. */
  aside: number | null;
  /** A snapshot has it poised, or began its open span: it goes as in latch, whatever its channel's mode and trim. */
  recalled: boolean;
  /** Spans of the open pass. */
  spans: Layers<SlowSpan[]>;
  /** Times at which a hand did something on its trim. */
  readonly trimTimes: number[];
  /** How often its trim was folded: each may move it by 0.05 dB. */
  folds: number;
  /** Its sway is on: it is not folded. */
  readonly sways: boolean;
};
type SlowChannel = { readonly key: string; mode: Mode; trim: boolean; parked: boolean; safe: ControlKind[] };
export type SlowLane = { control: ControlId; layer: Layer; spans: Range[]; moves: number };
export type SlowReceipt = {
  lap: number;
  from: number;
  to: number;
  lanes: SlowLane[];
  refused: { control: ControlId; reason: Reason }[];
  rested: ControlId[];
  gone?: ControlId[];
};

export class SlowModel {
  readonly controls: SlowControl[];
  readonly channels: SlowChannel[];
  readonly receipts: SlowReceipt[] = [];
  deskMode: Mode | null;
  readonly #song: Song;
  #scope: readonly ControlKind[];
  #songParked: boolean;
  #pass: (SlowReceipt & { now: number; noWrite: Set<string>; isPast: boolean }) | null = null;
  #position = 0;
  #stoppedRefused: SlowReceipt['refused'] = [];
  #stoppedRested = new Set<ControlId>();
  #stoppedGone = new Set<ControlId>();
  #tryout = false;
  #before = false;

  constructor(song: Song) {
    this.#song = song;
    this.deskMode = song.settings.deskMode;
    this.#scope = song.settings.writeScope;
    this.#songParked = song.settings.parked;
    this.channels = song.channels.map(({ key, mode, trim, parked, safe }) => ({
      key,
      mode,
      trim,
      parked,
      safe: [...safe],
    }));
    this.controls = [...controlsOf(song).keys()].map((id): SlowControl => {
      const control = controlOf(song, id);
      const lane = laneOf(song, id);
      const curve = (points: Song['lanes'][string]['points'], law: Law): Curve | null =>
        points.length ? (t) => valueAt(points, law, 0, t) : null;
      return {
        id,
        channel: control.channel,
        kind: control.kind,
        laws: { base: control.law, trim: TRIM_LAW },
        isSwitch: isSwitch(control),
        inDb: isInDb(control),
        rest: lane.rest,
        curves: { base: curve(lane.points, control.law), trim: curve(lane.trim, TRIM_LAW) },
        safe: lane.safe,
        parked: lane.parked,
        finger: null,
        poised: null,
        aside: null,
        recalled: false,
        spans: { base: [], trim: [] },
        trimTimes: [...lane.trim.t],
        folds: 0,
        sways: lane.sway?.on ?? false,
      };
    });
  }

  get isRolling(): boolean {
    return this.#pass !== null;
  }
  get lap(): number {
    return this.#pass?.lap ?? 0;
  }

  // ---- what the rules ask

  modeOf(key: string): Mode {
    return this.deskMode ?? this.channels.find((channel) => channel.key === key)!.mode;
  }

  /** What a hand writes that is nothing of a snapshot's and holds nothing aside. */
  #ownLayer(c: SlowControl): Layer {
    return c.inDb && this.channels.find(({ key }) => key === c.channel)!.trim ? 'trim' : 'base';
  }

  /** What the cap stands on. */
  #layer(c: SlowControl): Layer {
    if (this.#isHeld(c)) return c.finger!.onBase ? 'base' : this.#ownLayer(c);
    if (c.aside !== null || this.#isRecalled(c)) return 'base';
    const last = c.spans.trim.at(-1);
    const isTrimming =
      c.poised !== null || last?.to === null || (!!last?.line && (this.#pass?.now ?? Infinity) < last.to!);
    return this.#tryout && !isTrimming ? 'base' : this.#ownLayer(c);
  }

  #isRecalled(c: SlowControl): boolean {
    const last = c.spans.base.at(-1);
    return c.recalled && (last ? last.to === null : c.poised !== null);
  }

  /** How deep something sways is guarded with what sways. */
  #guarded(id: ControlId): SlowControl {
    return this.#control(id.replace(/\/sway$/, ''));
  }

  #guards(c: SlowControl): readonly boolean[] {
    const channel = this.channels.find(({ key }) => key === c.channel)!;
    return [
      this.#songParked || channel.parked || this.#guarded(c.id).parked,
      channel.safe.includes(c.kind) || this.#guarded(c.id).safe,
      !this.#scope.includes(c.kind),
      channel.trim && !c.inDb,
    ];
  }

  #whyNot(c: SlowControl, isRecalled = this.#isRecalled(c)): Reason | null {
    if (!isRecalled && ['off', 'read'].includes(this.modeOf(c.channel))) return 'mode';
    const [parked, safe, outOfScope, noTrim] = this.#guards(c);
    if (parked) return 'parked';
    if (safe) return 'safe';
    if (outOfScope) return 'scope';
    if (noTrim && !isRecalled) return 'trim';
    const { punch } = this.#song.settings;
    const now = this.#pass?.now;
    if (punch && now !== undefined && !(now >= punch[0] && now < punch[1])) return 'range';
    return null;
  }

  /** A layer's own curve, as the last pass left it: nothing where it is not read. */
  ownCurve(c: SlowControl, layer: Layer): Curve {
    return c.curves[layer] ?? (() => (layer === 'trim' ? 0 : c.rest));
  }

  #followed(c: SlowControl, layer: Layer, t: number): number {
    const isRead = this.modeOf(c.channel) !== 'off' && !this.#guards(c)[0];
    if (!isRead) return layer === 'trim' ? 0 : c.rest;
    return this.ownCurve(c, layer)(t);
  }

  #open(c: SlowControl): SlowSpan | null {
    const last = c.spans[this.#layer(c)].at(-1);
    return last && last.to === null ? last : null;
  }

  /** Where the cap is at a time: held by an open span, on its way back, in a hand, poised, or on its curve. */
  capAt(c: SlowControl, t: number): number {
    if (c.aside !== null && (this.#isHeld(c) || !this.#before)) return c.aside;
    const layer = this.#layer(c);
    const span = c.spans[layer].at(-1);
    if (span?.to === null) return span.values.at(-1)!.v;
    if (c.finger && !c.finger.letGo) return c.finger.value;
    if (span?.line && t < span.to!) return this.#alongLine(c, layer, span, t);
    if (c.poised !== null) return c.poised;
    return this.#followed(c, layer, t);
  }

  #alongLine(c: SlowControl, layer: Layer, { line }: SlowSpan, t: number): number {
    const law = c.laws[layer];
    const [x0, x1] = [travelOf(law, line!.from.v), travelOf(law, line!.lands.v)];
    return valueOf(law, x0 + ((x1 - x0) * (t - line!.from.t)) / (line!.lands.t - line!.from.t));
  }

  /** Where a touch finds the cap: before the finger itself counts. */
  #capForTouch(c: SlowControl, t: number): number {
    const finger = c.finger;
    c.finger = null;
    const v = this.capAt(c, t);
    c.finger = finger;
    return finger && !finger.letGo ? finger.value : v;
  }

  // ---- time

  /** Whatever time alone brings about, up to a time, in order. */
  #goOn(to: number): void {
    const pass = this.#pass!;
    const { punch, length } = this.#song.settings.punch
      ? { punch: this.#song.settings.punch, length: this.#song.length }
      : { punch: null, length: this.#song.length };
    const end = Math.min(to, length);
    for (;;) {
      const dues: { t: number; act: () => void }[] = [];
      for (const c of this.controls)
        if (c.finger && c.finger.releaseAt !== null) dues.push({ t: c.finger.releaseAt, act: () => this.#release(c) });
      if (punch && pass.now < punch[0])
        dues.push({ t: punch[0], act: () => this.controls.forEach((c) => this.#begin(c)) });
      if (punch && !pass.isPast && pass.from < punch[1])
        dues.push({
          t: punch[1],
          act: () => {
            pass.isPast = true;
            for (const c of this.controls) {
              for (const layer of ['base', 'trim'] as const) {
                this.#step(c, layer, punch[1]);
                this.#cut(c, layer, punch[1]);
              }
            }
          },
        });
      const next = dues.filter((due) => due.t <= end).sort((a, b) => a.t - b.t)[0];
      if (!next) break;
      pass.now = Math.max(pass.now, next.t);
      next.act();
    }
    pass.now = Math.max(pass.now, end);
  }

  handle(event: HandEvent): void {
    const { settings, length } = this.#song;
    const loop = settings.loop && ([settings.loop[0], Math.min(settings.loop[1], length)] as const);
    while (this.#pass && (event.lap ?? 0) > this.#pass.lap) {
      this.#goOn(loop![1]);
      const { lap } = this.#pass;
      this.#endPass(loop![1], true);
      for (const c of this.controls)
        if (c.finger && c.finger.releaseAt !== null) c.finger.releaseAt -= loop![1] - loop![0];
      this.#beginPass(loop![0], lap + 1);
    }
    if (this.#pass && event.t !== undefined) this.#goOn(event.t);
    this.#take(event);
    // What a snapshot had begun and is over goes by its mode again.
    for (const c of this.controls) if (!this.#isRecalled(c)) c.recalled = false;
  }

  #control(id: ControlId): SlowControl {
    return this.controls.find((c) => c.id === id)!;
  }

  #take(event: HandEvent): void {
    switch (event.do) {
      case 'play':
        if (this.#pass) this.#endPass(this.#pass.now, false);
        return this.#beginPass(event.from, 0);
      case 'stop':
        if (this.#pass) this.#endPass(this.#pass.now, false);
        return;
      case 'touch':
        return this.#touch(this.#control(event.control), null, !!event.alone);
      case 'move':
        return this.#move(this.#control(event.control), event.value, !!event.alone);
      case 'release':
        return this.#release(this.#control(event.control));
      case 'letgo':
        return this.#letGo();
      case 'tryout':
        this.#tryout = event.on;
        return;
      case 'before':
        this.#before = event.on && this.controls.some((c) => c.aside !== null);
        return;
      case 'aside':
        for (const [id, v] of Object.entries(event.values)) {
          const c = this.#control(id);
          if (!this.#isHeld(c)) this.#putAside(c, v);
        }
        return;
      case 'drop':
        for (const c of this.controls) {
          if (c.aside === null || (event.controls && !event.controls.includes(c.id))) continue;
          c.aside = null;
          if (!c.finger?.aside) continue;
          c.finger.letGo = true;
          for (const one of this.#ledBy(c)) one.finger!.letGo = true;
        }
        if (this.controls.every((c) => c.aside === null)) this.#before = false;
        return;
      case 'snapshot':
        return this.#recall(event.key);
      case 'mode':
        return this.#modesChange(() => {
          for (const channel of this.#linked(event.channel)) channel.mode = event.mode;
        });
      case 'desk':
        return this.#modesChange(() => {
          this.deskMode = event.mode;
        });
      case 'trim': {
        const linked = this.#linked(event.channel);
        for (const { key, trim } of linked)
          if (trim !== event.on) for (const c of this.controls) if (c.channel === key) c.poised = null;
        return this.#guardsChange(() => {
          for (const channel of linked) channel.trim = event.on;
        });
      }
      case 'safe':
        return this.#guardsChange(() => {
          if ('kinds' in event) this.channels.find(({ key }) => key === event.channel)!.safe = [...event.kinds];
          else this.#guarded(event.control).safe = event.on;
        });
      case 'park':
        return this.#guardsChange(() => {
          if (event.control) this.#guarded(event.control).parked = event.on;
          else if (event.channel) this.channels.find(({ key }) => key === event.channel)!.parked = event.on;
          else this.#songParked = event.on;
        });
      case 'scope':
        return this.#guardsChange(() => {
          this.#scope = event.kinds;
        });
    }
  }

  // ---- aside, and snapshots

  /** Held aside: it is written no more, and waits for no pass. */
  #putAside(c: SlowControl, v: number): void {
    if (this.#pass)
      for (const layer of ['base', 'trim'] as const) {
        this.#step(c, layer, this.#pass.now);
        this.#cut(c, layer, this.#pass.now);
      }
    c.poised = null;
    c.aside = v;
    this.#before = false;
  }

  /** Where a hand finds the base, whatever the cap stands on. */
  #baseFound(c: SlowControl): number {
    if (c.aside !== null) return c.aside;
    const now = this.#pass?.now ?? this.#position;
    if (this.#layer(c) === 'base') return this.#capForTouch(c, now);
    const span = c.spans.base.at(-1);
    if (span?.line && now < span.to!) return this.#alongLine(c, 'base', span, now);
    return this.#followed(c, 'base', now);
  }

  #recall(key: string): void {
    const { values, filter } = this.#song.snapshots.find((one) => one.key === key)!;
    for (const [id, v] of Object.entries(values)) {
      const [channel, what] = id.split('/') as [string, string];
      const kind = what === 'send' ? 'sends' : what;
      if (filter && !(filter[channel] ?? []).includes(kind as ControlKind)) continue;
      const c = this.controls.find((one) => one.id === id);
      if (!c) {
        if (this.#pass) this.#pass.gone = [...new Set([...(this.#pass.gone ?? []), id])];
        else this.#stoppedGone.add(id);
        continue;
      }
      if (this.#isHeld(c) || c.aside !== null) continue;
      const reason = this.#whyNot(c, true);
      const { punch } = this.#song.settings;
      if (!this.#pass && reason) {
        if (!this.#stoppedRefused.some((one) => one.control === id)) this.#stoppedRefused.push({ control: id, reason });
      } else if (!this.#pass || (reason === 'range' && this.#pass.now < punch![0])) {
        c.poised = v;
        c.recalled = true;
      } else if (reason) this.#pass.refused.push({ control: id, reason });
      else {
        for (const layer of ['base', 'trim'] as const) this.#step(c, layer, this.#pass.now);
        c.recalled = true;
        this.#spanOn(c, 'base', v);
      }
    }
  }

  // ---- a pass

  #beginPass(from: number, lap: number): void {
    const common = { lap, from, to: from, lanes: [], refused: this.#stoppedRefused, rested: [...this.#stoppedRested] };
    const gone = this.#stoppedGone.size ? { gone: [...this.#stoppedGone] } : {};
    this.#stoppedGone = new Set();
    this.#pass = { ...common, ...gone, now: from, noWrite: new Set(), isPast: false };
    this.#stoppedRefused = [];
    this.#stoppedRested = new Set();
    for (const c of this.controls) {
      // A value that waits and may not be written any more is named.
      const { punch } = this.#song.settings;
      const why = c.poised === null ? null : this.#whyNot(c);
      if (why && !(why === 'range' && punch)) this.#pass.refused.push({ control: c.id, reason: why });
    }
    for (const c of this.controls) this.#begin(c);
  }

  /** What begins by itself now: under a finger, from a poised value, in write mode. */
  #begin(c: SlowControl): void {
    const pass = this.#pass!;
    if (c.aside !== null || this.#open(c) || this.#whyNot(c)) return;
    const { finger } = c;
    if (finger && !finger.letGo && !finger.mustTouchAnew) {
      this.#newSpan(c, finger.value);
      finger.wrote = true;
    } else if (c.poised !== null) this.#newSpan(c, c.poised);
    else if (this.modeOf(c.channel) === 'write' && !pass.noWrite.has(c.channel)) {
      // A hand that holds nothing aside yet shows the base while tried out; what is written by itself is the channel's own.
      const layer = this.#isRecalled(c) ? 'base' : this.#ownLayer(c);
      this.#newSpan(c, layer === this.#layer(c) ? this.capAt(c, pass.now) : this.#followed(c, layer, pass.now));
    }
  }

  #newSpan(c: SlowControl, v: number): void {
    const counts = this.#isHeld(c) && !c.finger!.mustTouchAnew;
    const isOnBase = this.#isRecalled(c) || (counts && c.finger!.onBase);
    this.#spanOn(c, isOnBase ? 'base' : this.#ownLayer(c), v);
  }

  #spanOn(c: SlowControl, layer: Layer, v: number): void {
    const { now } = this.#pass!;
    this.#cut(c, layer, now);
    c.spans[layer].push({ from: now, to: null, values: [{ t: now, v }], line: null, moves: 0 });
  }

  /** A return line under way is cut. */
  #cut(c: SlowControl, layer: Layer, t: number): void {
    const span = c.spans[layer].at(-1);
    if (span?.line && span.to! > t) span.to = Math.max(span.from, t);
  }

  /** An open span ends with a step. */
  #step(c: SlowControl, layer: Layer, t: number): void {
    const span = c.spans[layer].at(-1);
    if (span?.to === null) span.to = t;
  }

  /** An open span ends as by a release: straight in travel to where the old curve is once the return time is over. */
  #return(c: SlowControl, layer: Layer): void {
    const { now } = this.#pass!;
    const span = c.spans[layer].at(-1)!;
    const { returnTime, punch } = this.#song.settings;
    span.to = now;
    if (c.isSwitch || returnTime === 0) return;
    const t = now + returnTime;
    span.line = { from: { t: now, v: span.values.at(-1)!.v }, lands: { t, v: this.ownCurve(c, layer)(t) } };
    span.to = Math.min(t, this.#song.length, punch ? Math.max(now, punch[1]) : Infinity);
  }

  /** The value of a written span at a time within it: the hand path, then the return line. */
  #pathAt(c: SlowControl, layer: Layer, span: SlowSpan, t: number): number {
    if (span.line && t >= span.line.from.t) return this.#alongLine(c, layer, span, t);
    const { values } = span;
    let i = 0;
    while (values[i + 1] && values[i + 1]!.t <= t) i++;
    const [here, next] = [values[i]!, values[i + 1]];
    if (!next || c.isSwitch) return here.v;
    const from = next.t - here.t > 0.05 ? next.t - 0.02 : here.t;
    if (t <= from) return here.v;
    const law = c.laws[layer];
    const [x0, x1] = [travelOf(law, here.v), travelOf(law, next.v)];
    return valueOf(law, x0 + ((x1 - x0) * (t - from)) / (next.t - from));
  }

  #endPass(t: number, isWrap: boolean): void {
    const pass = this.#pass!;
    const written: SlowControl[] = [];
    for (const c of this.controls) {
      if (c.finger?.under && !isWrap) this.#refuseIfNothing(c, c.finger.under);
      if (c.finger && !isWrap) this.#refuseIfNothing(c, c.finger);
      for (const layer of ['base', 'trim'] as const) {
        this.#step(c, layer, t);
        if (isWrap) this.#cut(c, layer, t);
        const spans = c.spans[layer].filter((span) => span.to! > span.from);
        const moves = c.spans[layer].reduce((sum, span) => sum + span.moves, 0);
        c.spans[layer] = [];
        if (!spans.length) continue;
        pass.lanes.push({ control: c.id, layer, spans: spans.map((s): Range => [s.from, s.to!]), moves });
        if (layer === 'trim') written.push(c);
        if (layer === 'trim')
          c.trimTimes.push(...spans.flatMap((one) => [...one.values.map((value) => value.t), one.to!]));
        const rest = layer === 'trim' ? 0 : c.rest;
        const old = c.curves[layer] ?? ((): number => rest);
        c.curves[layer] = (at) => {
          const span = spans.find((s) => at >= s.from && at < s.to!);
          return span ? this.#pathAt(c, layer, span, at) : old(at);
        };
      }
    }
    const { lap, from, lanes, refused, rested } = pass;
    this.receipts.push({ lap, from, to: t, lanes, refused, rested, ...(pass.gone ? { gone: pass.gone } : {}) });
    this.#pass = null;
    this.#position = t;
    if (this.#song.settings.foldTrim === 'pass') for (const c of written) this.#fold(c);
    for (const c of this.controls) {
      c.poised = null;
      c.recalled = false;
      if (isWrap || !c.finger || c.finger.releaseAt === null) continue;
      c.finger = null;
      for (const one of this.#ledBy(c)) one.finger = one.finger!.under;
    }
    const { afterWrite } = this.#song.settings;
    if (this.deskMode === 'write') this.deskMode = afterWrite;
    else if (this.deskMode === null)
      for (const channel of this.channels) if (channel.mode === 'write') channel.mode = afterWrite;
  }

  #fold(c: SlowControl): void {
    const [parked, safe] = this.#guards(c);
    const trim = c.curves.trim;
    if (!trim || parked || safe || c.sways) return;
    const { rest } = c;
    const base = c.curves.base ?? ((): number => rest);
    // A trim of 0 throughout leaves a bare lane bare.
    const isZero = c.trimTimes.every((t) => trim(t) === 0 && trim(t - 1e-6) === 0);
    if (isZero && !c.curves.base) return void (c.curves.trim = null);
    const own = c.laws.base;
    c.curves = {
      base: (t) => {
        const v = base(t);
        // A parameter stays in its own range, and knows no silence.
        if ('min' in own) return Math.max(own.min, Math.min(own.max, v + trim(t)));
        return v <= SILENCE_DB ? SILENCE_DB : Math.max(SILENCE_DB, Math.min(MAX_LEVEL_DB, v + trim(t)));
      },
      trim: null,
    };
    c.folds++;
  }

  // ---- gangs

  /** The channel and those whose mode and trim go with it. */
  #linked(key: string): SlowChannel[] {
    const with_ = this.#song.gangs.filter((gang) => gang.modes && gang.channels.includes(key));
    return this.channels.filter((one) => one.key === key || with_.some(({ channels }) => channels.includes(one.key)));
  }

  #gang(c: SlowControl): Song['gangs'][number] | undefined {
    return this.#song.gangs.find(({ kinds, channels }) => kinds.includes(c.kind) && channels.includes(c.channel));
  }

  /** The like controls of the other channels of its gang. */
  #likes(c: SlowControl): SlowControl[] {
    const last = (one: SlowControl): string => one.id.split('/').slice(1).join('/');
    const members = this.#gang(c)?.channels ?? [];
    return this.controls.filter((one) => one !== c && members.includes(one.channel) && last(one) === last(c));
  }

  #isHeld(c: SlowControl): boolean {
    return c.finger !== null && !c.finger.letGo;
  }

  #inTravel(c: SlowControl, v: number): number {
    return travelOf(c.laws[this.#layer(c)], v);
  }

  /** Where a hand that is at a value, and began where it did, takes a like control that began elsewhere. */
  #takenTo(c: SlowControl, began: number, leader: SlowControl, from: number, v: number): number {
    if (c.isSwitch) return v;
    const d = this.#inTravel(leader, v) - from;
    const x = began + (this.#isMirrored(leader) ? -d : d);
    return valueOf(c.laws[this.#layer(c)], Math.max(0, Math.min(1, x)));
  }

  #isMirrored(c: SlowControl): boolean {
    return c.id.endsWith('/pan') && this.#gang(c)?.pan === 'mirror';
  }

  #ledBy(c: SlowControl): SlowControl[] {
    return this.controls.filter((one) => one.finger?.leader === c.id);
  }

  // ---- hands

  #touch(c: SlowControl, releaseAt: number | null, alone: boolean): void {
    const known = c.finger;
    if (known && !known.letGo && known.leader === null && known.releaseAt === null) return;
    this.#press(c, releaseAt);
    // The same press goes on, where a sensor tells of it only now.
    if (known && !known.letGo && known.leader === null) c.finger!.began = known.began;
    if (alone) return this.#ledBy(c).forEach((one) => this.#leave(one));
    const d = this.#inTravel(c, c.finger!.value) - c.finger!.began;
    for (const one of this.#likes(c)) {
      if (this.#isHeld(one)) continue;
      const under = one.finger?.leader ? one.finger.under : one.finger;
      this.#press(one, null, c.finger!.aside || this.#tryout || one.aside !== null);
      one.finger!.leader = c.id;
      one.finger!.under = under;
      one.finger!.began -= this.#isMirrored(c) ? -d : d;
    }
  }

  #press(c: SlowControl, releaseAt: number | null, isAside = this.#tryout || c.aside !== null): void {
    const before = c.finger;
    const isDown = before !== null && !before.letGo;
    const value = isAside ? this.#baseFound(c) : this.#capForTouch(c, this.#pass?.now ?? this.#position);
    const onBase = isAside || this.#isRecalled(c);
    const finger: SlowFinger = {
      value,
      reason: isAside ? null : this.#whyNot(c),
      releaseAt,
      letGo: false,
      mustTouchAnew: false,
      wrote: isDown && before.wrote,
      rested: isDown && before.rested,
      reported: isDown && before.reported,
      refusedStopped: false,
      leader: null,
      began: 0,
      aside: isAside,
      onBase,
      under: null,
    };
    c.finger = finger;
    finger.began = this.#inTravel(c, value);
    if (isAside) return this.#putAside(c, value);
    if (!this.#pass || finger.reason) return;
    const span = this.#open(c);
    if (span) span.values.push({ t: this.#pass.now, v: span.values.at(-1)!.v });
    else this.#newSpan(c, value);
    finger.wrote = true;
  }

  #move(c: SlowControl, v: number, alone: boolean): void {
    if (c.finger?.under) return;
    if (!this.#pass) return this.#moveStopped(c, v, alone);
    const soon = this.#pass.now + 0.5;
    if (!c.finger || c.finger.leader) this.#touch(c, soon, alone);
    else if (c.finger.releaseAt !== null) c.finger.releaseAt = soon;
    const finger = c.finger!;
    if (finger.letGo) return;
    this.#moveRolling(c, v);
    for (const one of this.#ledBy(c)) this.#moveRolling(one, this.#takenTo(one, one.finger!.began, c, finger.began, v));
  }

  #moveRolling(c: SlowControl, v: number): void {
    const finger = c.finger!;
    if (finger.letGo) return;
    finger.value = v;
    if (finger.aside) return void (c.aside = v);
    if (finger.mustTouchAnew) return;
    const span = this.#open(c);
    if (span) {
      span.values.push({ t: this.#pass!.now, v });
      span.moves++;
    } else if (this.#setsRest(c)) {
      this.#rest(c, v);
      if (!this.#pass!.rested.includes(c.id)) this.#pass!.rested.push(c.id);
    }
  }

  /** The exact cases in which a hand sets the resting value. */
  #setsRest(c: SlowControl): boolean {
    const [parked, safe] = this.#guards(c);
    if (parked || safe || this.#ownLayer(c) === 'trim') return false;
    const hasCurve = c.curves.base !== null || c.spans.base.length > 0;
    const mode = this.modeOf(c.channel);
    return mode === 'off' || (mode === 'read' && !hasCurve) || (mode === 'touch' && !this.#pass && !hasCurve);
  }

  #rest(c: SlowControl, v: number): void {
    c.rest = v;
    if (c.finger) c.finger.rested = true;
  }

  #moveStopped(c: SlowControl, v: number, alone: boolean): void {
    const { finger } = c;
    if (finger && !finger.leader) {
      if (finger.letGo) return;
      this.#setStopped(c, v);
      for (const one of this.#ledBy(c))
        this.#setStopped(one, this.#takenTo(one, one.finger!.began, c, finger.began, v));
      return;
    }
    // Touch, move and release in one.
    const isAside = this.#tryout || c.aside !== null;
    const on = (one: SlowControl, aside: boolean): Law => one.laws[aside ? 'base' : this.#layer(one)];
    const found = isAside ? this.#baseFound(c) : this.#capForTouch(c, this.#position);
    const led = (alone ? [] : this.#likes(c))
      .filter((one) => !this.#isHeld(one))
      .map((one) => {
        const aside = isAside || this.#tryout || one.aside !== null;
        const law = on(one, aside);
        const began = travelOf(law, aside ? this.#baseFound(one) : this.capAt(one, this.#position));
        const d = travelOf(on(c, isAside), v) - travelOf(on(c, isAside), found);
        const x = began + (this.#isMirrored(c) ? -d : d);
        return { one, aside, to: one.isSwitch ? v : valueOf(law, Math.max(0, Math.min(1, x))) };
      });
    c.finger = null;
    this.#setStopped(c, v, isAside);
    for (const { one, aside, to } of led) {
      // A hand that was let go of lies on it and moves nothing: it is as if it were not there.
      const lies = one.finger;
      one.finger = null;
      this.#setStopped(one, to, aside);
      one.finger = lies;
    }
  }

  #setStopped(c: SlowControl, v: number, isAside = c.finger?.aside ?? false): void {
    if (c.finger?.letGo) return;
    if (c.finger) c.finger.value = v;
    if (isAside) return this.#putAside(c, v);
    const mode = this.modeOf(c.channel);
    if (mode === 'latch' || mode === 'write' || this.#isRecalled(c)) {
      const reason = this.#whyNot(c);
      if (!reason) c.poised = v;
      else {
        const said = c.finger ? c.finger.refusedStopped : this.#stoppedRefused.some((r) => r.control === c.id);
        if (!said) this.#stoppedRefused.push({ control: c.id, reason });
        if (c.finger) c.finger.refusedStopped = c.finger.reported = true;
      }
    } else if (this.#setsRest(c)) {
      this.#rest(c, v);
      this.#stoppedRested.add(c.id);
    }
  }

  #release(c: SlowControl): void {
    if (!c.finger) return;
    if (c.finger.leader === null) {
      this.#leave(c);
      return this.#ledBy(c).forEach((one) => this.#leave(one));
    }
    if (!c.finger.under) return;
    if (this.#pass) this.#refuseIfNothing(c, c.finger.under);
    c.finger.under = null;
  }

  /** A hand, or what leads, leaves a control. */
  #leave(c: SlowControl): void {
    const finger = c.finger!;
    const pass = this.#pass;
    if (pass) {
      const mode = this.modeOf(c.channel);
      const { punch } = this.#song.settings;
      const holds = mode === 'latch' || mode === 'write';
      const isOn = !finger.letGo && !finger.mustTouchAnew;
      const recalled = this.#isRecalled(c);
      if (finger.aside) {
        // Nothing of it was to be written.
      } else if (this.#open(c) && isOn) {
        if (mode === 'touch' && !recalled) this.#return(c, this.#layer(c));
      } else if (
        isOn &&
        (recalled || holds) &&
        punch &&
        pass.now < punch[0] &&
        (recalled || !this.#guards(c).includes(true))
      )
        c.poised = finger.value;
      else this.#refuseIfNothing(c, finger);
    }
    c.finger = finger.under;
  }

  #refuseIfNothing(c: SlowControl, finger: SlowFinger): void {
    const { wrote, rested, reported, reason } = finger;
    if (wrote || rested || reported || !reason) return;
    finger.reported = true;
    this.#pass!.refused.push({ control: c.id, reason });
  }

  #letGo(): void {
    for (const c of this.controls) {
      c.poised = null;
      if (c.finger) c.finger.letGo = true;
      if (!this.#pass) continue;
      this.#pass.noWrite.add(c.channel);
      for (const layer of ['base', 'trim'] as const) if (c.spans[layer].at(-1)?.to === null) this.#return(c, layer);
    }
  }

  // ---- modes and guards

  #modesChange(change: () => void): void {
    const before = new Map(this.channels.map(({ key }) => [key, this.modeOf(key)]));
    change();
    for (const c of this.controls) {
      const mode = this.modeOf(c.channel);
      if (mode === before.get(c.channel)) continue;
      c.poised = null;
      if (!this.#pass) continue;
      if (mode === 'write') this.#pass.noWrite.delete(c.channel);
      const span = this.#open(c);
      const hasFinger = !!c.finger && !c.finger.letGo && !c.finger.mustTouchAnew;
      if (span && (mode === 'off' || mode === 'read')) this.#step(c, this.#layer(c), this.#pass.now);
      if (span && mode === 'touch' && !hasFinger) this.#return(c, this.#layer(c));
    }
    if (!this.#pass) return;
    for (const c of this.controls) if (this.modeOf(c.channel) !== before.get(c.channel)) this.#begin(c);
  }

  #guardsChange(change: () => void): void {
    const travels = this.controls.map((c) => (c.finger ? this.#inTravel(c, c.finger.value) : 0));
    const before = this.controls.map((c) => {
      const [parked, safe] = this.#guards(c);
      return { guards: this.#guards(c).join(), layer: this.#ownLayer(c), parked, safe };
    });
    change();
    this.controls.forEach((c, i) => {
      const isOtherLayer = this.#ownLayer(c) !== before[i]!.layer;
      if (!isOtherLayer && this.#guards(c).join() === before[i]!.guards) return;
      if (isOtherLayer && c.finger && !c.finger.onBase) {
        c.finger.mustTouchAnew = true;
        c.finger.value = this.#followed(c, this.#ownLayer(c), this.#pass?.now ?? this.#position);
      }
      if (!this.#pass) return;
      for (const layer of ['base', 'trim'] as const) this.#step(c, layer, this.#pass.now);
      if (c.finger) c.finger.mustTouchAnew = true;
      // What comes on as safe or parked cuts a way back, too.
      const [parked, safe] = this.#guards(c);
      if ((parked && !before[i]!.parked) || (safe && !before[i]!.safe))
        for (const layer of ['base', 'trim'] as const) this.#cut(c, layer, this.#pass.now);
    });
    // Who leads and who is led go on from where they are, on the throws they have in hand now.
    const isTurned = (c: SlowControl): boolean =>
      !c.finger?.onBase && this.#ownLayer(c) !== before[this.controls.indexOf(c)]!.layer;
    for (const [i, c] of this.controls.entries())
      if (c.finger && !c.finger.leader && isTurned(c))
        c.finger.began += this.#inTravel(c, c.finger.value) - travels[i]!;
    for (const c of this.controls) {
      if (!c.finger?.leader || !isTurned(c)) continue;
      const leader = this.#control(c.finger.leader);
      const d = this.#inTravel(leader, leader.finger!.value) - leader.finger!.began;
      c.finger.began = this.#inTravel(c, c.finger.value) - (this.#isMirrored(leader) ? -d : d);
    }
  }
}
