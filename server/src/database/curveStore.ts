import { createHash } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import { Curve, CurveMaker, firstNotBefore } from '@sure-hand/core/curve';
import { apart, packed, putTogether, unpacked } from '@sure-hand/core/formats';
import { QueryTypes, type Transaction } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';
import { blobOfCurve, curveOfBlob } from './curveBlob.js';
import { CurveRow } from './models.js';
import { writeRows } from './writeRows.js';

/** Curves that are kept, by the number under which they are. */
export type KeptCurves = ReadonlyMap<Curve, number>;

/** A stretch of a kept curve, or the place of a curve that is there by itself. */
type Part = readonly [curve: number, from: number, count: number] | number;
/** A document as it is kept: its curves are named, but for those that stand nowhere else. */
type Named = {
  readonly keptAs: 'named';
  readonly bare: unknown;
  readonly ways: readonly unknown[];
  readonly parts: readonly (readonly Part[])[];
  readonly own: readonly Curve[];
};

/** Curves of fewer points are not worth naming. */
const LEAST_POINTS = 32;
/** So many are asked for in one statement. */
const AT_ONCE = 500;

const hashes = new WeakMap<Curve, { readonly hash: Buffer; readonly hex: string }>();
function hashOf(curve: Curve): { readonly hash: Buffer; readonly hex: string } {
  const there = hashes.get(curve);
  if (there) return there;
  const hash = createHash('sha256').update(blobOfCurve(curve)).digest();
  const made = { hash, hex: hash.toString('hex') };
  hashes.set(curve, made);
  return made;
}

/**
 * Curves, each once: what a pass found is what the one before it left, what takes an edit back is what stood before, and what a
 * pass wrote is a stretch of what it left. A year's passes are as large as their points.
 */
@Injectable()
export class CurveStore {
  constructor(
    private readonly sequelize: Sequelize,
    @InjectModel(CurveRow) private readonly rows: typeof CurveRow,
  ) {}

  /** Sees that curves are kept, as a song's; gives back the numbers of those that are worth it. */
  async put(songId: number, curves: Iterable<Curve>, transaction: Transaction): Promise<KeptCurves> {
    const all = [...new Set(curves)].filter((curve) => curve.length >= LEAST_POINTS);
    if (!all.length) return new Map();
    const byHash = new Map(all.map((curve) => [hashOf(curve).hex, curve]));
    const there = await this.#numbers([...byHash.values()], transaction);
    const fresh = [...byHash].filter(([hex]) => !there.has(hex)).map(([, curve]) => curve);
    await writeRows(
      this.sequelize,
      'curves',
      fresh.map((curve) => ({ hash: hashOf(curve).hash, bytes: blobOfCurve(curve) })),
      transaction,
    );
    for (const [hex, number] of await this.#numbers(fresh, transaction)) there.set(hex, number);
    const uses = [...there.values()].map((curve) => ({ songId, curve }));
    await writeRows(this.sequelize, 'curveUses', uses, transaction);
    return new Map(all.map((curve) => [curve, there.get(hashOf(curve).hex)!]));
  }

  /** Of some curves those that are kept as a song's already, by their numbers. */
  async known(songId: number, curves: Iterable<Curve>, transaction: Transaction): Promise<KeptCurves> {
    const all = [...new Set(curves)].filter((curve) => curve.length >= LEAST_POINTS);
    const there = await this.#numbers(all, transaction, songId);
    return new Map(
      all.flatMap((curve) => {
        const number = there.get(hashOf(curve).hex);
        return number === undefined ? [] : [[curve, number] as const];
      }),
    );
  }

  async #numbers(curves: readonly Curve[], transaction: Transaction, songId?: number): Promise<Map<string, number>> {
    const found = new Map<string, number>();
    const mine = songId === undefined ? '' : ` AND id IN (SELECT curve FROM curveUses WHERE songId = ${songId})`;
    for (let from = 0; from < curves.length; from += AT_ONCE) {
      const bind = curves.slice(from, from + AT_ONCE).map((curve) => hashOf(curve).hash);
      const places = bind.map((_, i) => `$${i + 1}`).join(', ');
      const rows = await this.sequelize.query<{ id: number; hash: Buffer }>(
        `SELECT id, hash FROM curves WHERE hash IN (${places})${mine}`,
        { bind, type: QueryTypes.SELECT, transaction },
      );
      for (const { id, hash } of rows) found.set(hash.toString('hex'), id);
    }
    return found;
  }

  /** Kept curves by their numbers. Throws where one is not there: the database is damaged then. */
  async get(numbers: Iterable<number>): Promise<Map<number, Curve>> {
    const all = [...new Set(numbers)];
    const found = new Map<number, Curve>();
    for (let from = 0; from < all.length; from += AT_ONCE)
      for (const { id, bytes } of await this.rows.findAll({
        where: { id: all.slice(from, from + AT_ONCE) },
        raw: true,
      }))
        found.set(id, curveOfBlob(bytes));
    const gone = all.find((number) => !found.has(number));
    if (gone !== undefined) throw new Error(`The database is damaged: curve ${gone} is not in it.`);
    return found;
  }

  /** Opens documents that {@link blobNaming} made, or that were kept before curves were named. */
  async open(blobs: readonly Buffer[]): Promise<unknown[]> {
    const documents = blobs.map((blob) => unpacked(blob));
    const named = documents.filter(isNamed);
    const parts = named.flatMap((one) => one.parts.flat()).filter((part) => typeof part !== 'number');
    const curves = await this.get(parts.map(([number]) => number));
    return documents.map((one) => (isNamed(one) ? opened(one, curves) : one));
  }

  /** The numbers of the curves that a document names. */
  namedIn(blob: Buffer): number[] {
    const document = unpacked(blob);
    return isNamed(document) ? document.parts.flat().flatMap((part) => (typeof part === 'number' ? [] : part[0])) : [];
  }

  /** How many bytes some curves are. */
  async bytesOf(numbers: readonly number[]): Promise<number> {
    let bytes = 0;
    for (let from = 0; from < numbers.length; from += AT_ONCE) {
      const some = numbers.slice(from, from + AT_ONCE).join(', ');
      const [row] = await this.sequelize.query<{ bytes: number | null }>(
        `SELECT SUM(LENGTH(bytes)) AS bytes FROM curves WHERE id IN (${some})`,
        { type: QueryTypes.SELECT },
      );
      bytes += row?.bytes ?? 0;
    }
    return bytes;
  }

  /** Of a song only these curves are named from now on. */
  async keepOnly(songId: number, numbers: ReadonlySet<number>, transaction: Transaction): Promise<void> {
    await this.sequelize.query('DELETE FROM curveUses WHERE songId = $songId', { bind: { songId }, transaction });
    const uses = [...numbers].map((curve) => ({ songId, curve }));
    await writeRows(this.sequelize, 'curveUses', uses, transaction);
  }

  /** Forgets curves that nothing names any more. */
  async forgetUnused(): Promise<void> {
    await this.sequelize.query('DELETE FROM curves WHERE id NOT IN (SELECT curve FROM curveUses)');
  }
}

const isNamed = (document: unknown): document is Named => (document as Partial<Named> | null)?.keptAs === 'named';

/** A document as it is kept: curves that are kept are named, and so are stretches of them. */
export function blobNaming(document: unknown, kept: KeptCurves): Buffer {
  const { bare, curves } = apart(document);
  const own: Curve[] = [];
  const byItself = (curve: Curve): Part => own.push(curve) - 1;
  const parts = curves.map(({ curve }): Part[] => {
    const whole = kept.get(curve);
    if (whole !== undefined) return [[whole, 0, curve.length]];
    const shared = curve.length < LEAST_POINTS ? null : longestShared(curve, kept);
    if (!shared) return [byItself(curve)];
    const { number, at, from, count } = shared;
    return [
      ...(at > 0 ? [byItself(curve.slice(0, at))] : []),
      [number, from, count] as const,
      ...(at + count < curve.length ? [byItself(curve.slice(at + count))] : []),
    ];
  });
  const named: Named = { keptAs: 'named', bare, ways: curves.map(({ at }) => at), parts, own };
  const bytes = packed(named);
  return Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length);
}

function opened({ bare, ways, parts, own }: Named, kept: ReadonlyMap<number, Curve>): unknown {
  const curves = parts.map((all) => {
    const [only] = all;
    const isWhole = all.length === 1 && typeof only !== 'number' && kept.get(only![0])!.length === only![2];
    if (isWhole) return kept.get((only as readonly [number, number, number])[0])!;
    const made = new CurveMaker();
    for (const part of all)
      if (typeof part === 'number') made.copy(own[part]!, 0, own[part]!.length);
      else made.copy(kept.get(part[0])!, part[1], part[1] + part[2]);
    return made.make();
  });
  return putTogether(bare, ways, curves);
}

/** A stretch that a curve shares with a kept one: where it is in either, and how long. */
type Shared = { readonly number: number; readonly at: number; readonly from: number; readonly count: number };

/** How far into a curve a shared stretch may begin: what is spliced in is cut a little at its ends. */
const MOST_BEFORE = 3;

/** The longest stretch that most of a curve is; null where none is half of it. */
function longestShared(curve: Curve, kept: KeptCurves): Shared | null {
  let best: Shared | null = null;
  for (const [other, number] of kept)
    for (let at = 0; at < MOST_BEFORE; at++) {
      const first = firstNotBefore(other.t, curve.t[at]!);
      for (let from = first; from < other.length && other.t[from] === curve.t[at]; from++) {
        let count = 0;
        while (at + count < curve.length && isSamePoint(curve, at + count, other, from + count)) count++;
        if (count > (best?.count ?? curve.length / 2)) best = { number, at, from, count };
      }
    }
  return best;
}

const isSamePoint = (a: Curve, i: number, b: Curve, k: number): boolean =>
  k < b.length &&
  a.t[i] === b.t[k] &&
  Object.is(a.v[i], b.v[k]) &&
  a.shape[i] === b.shape[k] &&
  a.bendOf(i) === b.bendOf(k) &&
  a.partFrom(i) === b.partFrom(k) &&
  a.partTo(i) === b.partTo(k) &&
  !a.more?.has(i) &&
  !b.more?.has(k);
