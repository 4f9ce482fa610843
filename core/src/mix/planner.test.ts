import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { EDIT_KINDS, applyEdit, type Edit } from '../edits/index.js';
import { readEdit } from '../formats/index.js';
import { channelWithDefaults, controlsOf, type Channel, type Song } from '../song/index.js';
import { anySong, draws, drawsOf, editFrom } from '../test/anyEdit.js';
import { CLIP_OF_ONES, ones } from '../test/ones.js';
import { mixPlan, type MixPlan } from './plan.js';
import { MixPlanner, changedPlan } from './planner.js';
import { MixRenderer } from './renderer.js';
import { Slots } from './slots.js';
import { runs } from '../test/runs.js';

/** A plan with names in the place of slots: what two plans of one song have in common, wherever their controls stand. */
function named({ controls, nodes, ...rest }: MixPlan): object {
  const id = (slot: number): string => (slot < 0 ? 'none' : controls[slot]!.id);
  return {
    ...rest,
    controls: Object.fromEntries(
      controls
        .filter((control) => control.id)
        .map((control) => [
          control.id,
          { ...control, sway: control.sway && { ...control.sway, depth: id(control.sway.depth) } },
        ]),
    ),
    nodes: nodes.map(({ slot: _slot, level, pan, mute, vcaLevels, vcaMutes, sends, inserts, ...node }) => ({
      ...node,
      ids: [level, pan, mute, ...vcaLevels, ...vcaMutes].map(id),
      inserts: inserts.map(({ params, on, ...insert }) => ({ ...insert, on: id(on), params: params.map(id) })),
      sends: sends.map((send) => ({ ...send, level: id(send.level), on: id(send.on), pan: id(send.pan) })),
    })),
  };
}
/** Of a plan that was kept: what stands in slots that nobody has any more is left out. */
const present = (plan: MixPlan, song: Song): MixPlan => ({
  ...plan,
  controls: plan.controls.map((control) => (controlsOf(song).has(control.id) ? control : { ...control, id: '' })),
});

test('a kept plan, changed by what is told, is the plan from scratch after any edits, and no slot moves', () => {
  fc.assert(
    fc.property(fc.array(draws, { minLength: 1, maxLength: 12 }), (walk) => {
      let song = anySong();
      const planner = new MixPlanner(song);
      let told = planner.plan;
      for (const draw of walk) {
        const edit = editFrom(song, draw);
        if (!readEdit(song, edit).ok) continue;
        const before = new Map([...controlsOf(song).keys()].map((id) => [id, planner.slotOf(id)]));
        song = applyEdit(song, edit).song;
        const { change } = planner.follow(song);
        if (change) told = changedPlan(told, change);
        // Told at once: a matcher for each of so many takes longer than all the rest.
        expect([...before].filter(([id, slot]) => controlsOf(song).has(id) && planner.slotOf(id) !== slot)).toEqual([]);
        const slots = [...controlsOf(song).keys()].map((id) => planner.slotOf(id));
        expect(new Set(slots).size).toBe(slots.length);
      }
      expect(told).toEqual(planner.plan);
      expect(named(present(told, song))).toEqual(named(mixPlan(song)));
    }),
    { numRuns: runs(300) },
  );
});

test('what is not heard is not told: modes, guards, scope, marks, names; off and parking are', () => {
  const song = anySong();
  const silent: Edit[] = [
    { kind: 'channel', channel: 'voice', changes: { mode: 'latch', trim: true, safe: ['pan'] } },
    { kind: 'guard', control: 'voice/level', changes: { safe: true } },
    { kind: 'settings', changes: { writeScope: ['level'], returnTime: 1, punch: [1, 2], deskMode: 'touch' } },
    { kind: 'describe', channel: 'voice', changes: { name: 'Singer' } },
    { kind: 'title', name: 'Other' },
    { kind: 'mark', list: 'notes', remove: null, add: { t: 1, text: 'Here' } },
  ];
  for (const edit of silent) {
    const planner = new MixPlanner(song);
    expect(planner.follow(applyEdit(song, edit).song).change).toBeNull();
  }
  const planner = new MixPlanner(song);
  const parked = applyEdit(song, { kind: 'guard', control: 'voice/pan', changes: { parked: true } }).song;
  expect(planner.follow(parked).change!.controls.map(({ plan }) => plan.id)).toEqual(['voice/pan', 'voice/pan/sway']);
  planner.follow(song);
  const { change } = planner.follow(
    applyEdit(song, { kind: 'channel', channel: 'voice', changes: { mode: 'off' } }).song,
  );
  expect(change!.frame).toBeNull();
  expect(change!.controls.map(({ plan }) => plan.id)).toEqual(
    [...controlsOf(song).keys()].filter((id) => id.startsWith('voice/')),
  );
});

test('of a channel that comes only that channel is told, of a solo only what is heard: no other node is made anew', () => {
  const song = anySong();
  const planner = new MixPlanner(song);
  const { nodes, files } = planner.plan;
  const channel = channelWithDefaults({ key: 'slap', kind: 'bus', name: 'Slap' }, song.length);
  const wider = applyEdit(song, { kind: 'addChannel', channel, at: 0 }).song;
  const came = planner.follow(wider).change!.frame!;
  // What feeds is rendered before what it feeds: the tracks, the buses in their order, the main.
  expect(came.nodes).toEqual([0, 1, expect.objectContaining({ key: 'slap', output: 'main' }), 2, 3]);
  expect(planner.plan.nodes.filter((node) => nodes.includes(node))).toEqual(nodes);
  const soloed = applyEdit(wider, { kind: 'channel', channel: 'fiddle', changes: { solo: true } }).song;
  const { frame, controls } = planner.follow(soloed).change!;
  expect([frame!.nodes, frame!.files, controls]).toEqual([null, null, []]);
  // Of the voice neither the output nor the send is heard, of the fiddle the output; of the slap and the hall nothing; the main.
  // What the fiddle listens to is heard by it all the same.
  expect([...frame!.heard]).toEqual([0, 0, 1, 1, 0, 0, 1]);
  expect(planner.plan.files).toBe(files);
});

test('a mix changed while it rolls is after 2 ms what the changed song’s mix is from scratch, whatever the edits', () => {
  const sounds = (channel: Channel): Channel =>
    // Inserts remember what they heard before a change.
    ({ ...channel, clips: channel.kind === 'track' ? [CLIP_OF_ONES] : [], inserts: [] });
  const kinds = EDIT_KINDS.map(({ kind }) => kind).filter((kind) => kind !== 'insert' && kind !== 'copyInsert');
  let heard = 0;
  fc.assert(
    fc.property(fc.array(drawsOf(kinds), { minLength: 1, maxLength: 12 }), (walk) => {
      let song: Song = { ...anySong(), channels: anySong().channels.map(sounds) };
      const planner = new MixPlanner(song);
      const rolling = new MixRenderer(planner.plan, ones);
      const [left, right] = [new Float32Array(256), new Float32Array(256)];
      for (const draw of walk) {
        rolling.render(left, right, 200);
        const edit = editFrom(song, draw);
        if (!readEdit(song, edit).ok) continue;
        song = applyEdit(song, edit).song;
        const { change } = planner.follow(song);
        if (change) rolling.change(changedPlan(rolling.plan, change), new Set(change.controls.map(({ slot }) => slot)));
      }
      rolling.render(left, right, 256);
      const fresh = new MixRenderer(mixPlan(song), ones);
      fresh.locate(rolling.frame);
      const [freshLeft, freshRight] = [new Float32Array(256), new Float32Array(256)];
      fresh.render(freshLeft, freshRight, 256);
      rolling.render(left, right, 256);
      if (left[100]! > 1e-3) heard++;
      for (const n of [0, 1, 99, 255]) {
        expect(left[n]).toBeCloseTo(freshLeft[n]!, 6);
        expect(right[n]).toBeCloseTo(freshRight[n]!, 6);
      }
    }),
    { numRuns: runs(300) },
  );
  expect(heard).toBeGreaterThan(runs(100));
});

test('a place given up is the last to be taken again, and never in the same change', () => {
  const slots = new Slots();
  slots.assign(new Set(['a', 'b', 'c']));
  expect(slots.assign(new Set(['a', 'c', 'd']))).toEqual([1]);
  expect(['a', 'b', 'c', 'd'].map((name) => slots.of(name))).toEqual([0, -1, 2, 3]);
  expect(slots.assign(new Set(['a', 'd', 'e']))).toEqual([2]);
  expect(slots.of('e')).toBe(1);
});
