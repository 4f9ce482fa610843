import {
  channelNamed,
  channelOf,
  controlsOfChannel,
  hostNamed,
  swayControlId,
  swayOf,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { OPAQUE } from '../../parts/opaqueLayer.js';
import { drawGround, type GroundRow, type GroundScene } from './drawGround.js';
import { drawLanes } from './drawLanes.js';
import { vcaLevelsOver } from './drawSum.js';
import { RIDE, type ChannelRow } from './rideLayout.js';

const TILE_PX = 512;
const SPARE_TILES = 64;
/** A tile that was not drawn in so many pictures is dropped. */
const KEPT_FOR = 300;
/** How long tiles are made for one picture: the rows that are left then are drawn without theirs. */
const MAKING_MS = 4;

/** Where tiles are put: from which pixel of the song on, how wide, at which x and y of the canvas. */
export type TilePlace = { readonly songPx: number; readonly width: number; readonly x: number; readonly y: number };

/** A tile, what it was drawn from, the row and the song in which that was looked for last, and the last picture that had it. */
type Tile = {
  readonly canvas: HTMLCanvasElement;
  readonly facts: readonly unknown[];
  row: GroundRow;
  song: Song;
  picture: number;
};
/** Tiles of each row, by their places along the song. */
type Tiles = Map<string, Map<number, Tile>>;

/**
 * Keeps the ground of each row in tiles, and the same with its lanes on it as the song has them, each drawn when it first comes
 * into sight, wherever its row then stands. A change of the song, or of the rows, draws only those anew that show another thing.
 */
export class RowTiles {
  #scene: GroundScene | null = null;
  readonly #ground: Tiles = new Map();
  readonly #lanes: Tiles = new Map();
  /** Canvases of tiles that were dropped: drawn over rather than made anew. */
  readonly #spare: HTMLCanvasElement[] = [];
  #dpr = 1;
  #picture = 0;

  constructor(readonly now: () => number = () => performance.now()) {}

  /** Says what is to be seen; where that is another ground for all rows, all tiles are dropped. */
  show(scene: GroundScene, dpr: number): void {
    const before = this.#scene;
    this.#scene = scene;
    if (before && this.#dpr === dpr && isSameGround(before, scene)) return;
    this.#dpr = dpr;
    this.#drop(() => true);
  }

  /**
   * Draws ground and lanes of the rows in sight, and makes one tile of what comes next. Gives back the rows of which only the
   * ground is drawn: the `hot` ones, whose lanes change by themselves, and those whose tiles there was no time for.
   */
  draw(
    ctx: CanvasRenderingContext2D,
    place: TilePlace,
    rows: readonly GroundRow[],
    hot: ReadonlySet<GroundRow> = new Set(),
  ): ReadonlySet<GroundRow> {
    this.#picture++;
    const columns = tilesOf(place);
    const until = this.now() + MAKING_MS;
    const bare = new Set(hot);
    for (const row of rows) {
      if (row.kind === 'channel' && !hot.has(row) && !this.#hasAll(row, columns) && this.now() > until) bare.add(row);
      for (const i of columns) {
        const tile = row.kind === 'channel' && !bare.has(row) ? this.#laneTile(row, i) : this.#groundTile(row, i);
        this.#put(ctx, tile, i, row, place);
      }
    }
    if (bare.size === hot.size)
      this.#makeAhead(
        rows.filter((row) => !hot.has(row)),
        columns.at(-1)! + 1,
      );
    if (this.#picture % KEPT_FOR === 0) this.#drop(({ picture }) => picture <= this.#picture - KEPT_FOR);
    return bare;
  }

  #put(
    ctx: CanvasRenderingContext2D,
    { canvas }: Tile,
    i: number,
    { top, height }: GroundRow,
    { songPx, x, y }: TilePlace,
  ): void {
    ctx.drawImage(canvas, x + i * TILE_PX - songPx, y + top, TILE_PX, height);
  }

  /** A song that rolls comes to the next tiles of all rows at once: they are made before, one with each picture. */
  #makeAhead(rows: readonly GroundRow[], column: number): void {
    const { song, pxPerSec } = this.#scene!;
    if (column * TILE_PX > song.length * pxPerSec) return;
    for (const row of rows) {
      if (row.kind !== 'channel') continue;
      const isThere = this.#valid(this.#lanes, row, column) !== null;
      if (!isThere) return void this.#laneTile(row, column);
    }
  }

  #drop(isLost: (tile: Tile) => boolean): void {
    for (const tiles of [this.#ground, this.#lanes])
      for (const [row, own] of tiles) {
        for (const [i, tile] of own) {
          if (!isLost(tile)) continue;
          own.delete(i);
          // Without a size it takes no room while it waits.
          tile.canvas.width = tile.canvas.height = 0;
          this.#spare.push(tile.canvas);
        }
        if (own.size === 0) tiles.delete(row);
      }
    this.#spare.length = Math.min(this.#spare.length, SPARE_TILES);
  }

  /** A tile that is there and shows what it has to; null where there is none such. */
  #valid(tiles: Tiles, row: GroundRow, i: number): Tile | null {
    const tile = tiles.get(keyOf(row))?.get(i);
    if (!tile) return null;
    const { song } = this.#scene!;
    if (tile.song !== song || tile.row !== row) {
      const facts = tiles === this.#lanes ? laneFacts(song, row as ChannelRow) : groundFacts(row);
      if (facts.length !== tile.facts.length || facts.some((fact, k) => fact !== tile.facts[k])) return null;
      tile.song = song;
      tile.row = row;
    }
    tile.picture = this.#picture;
    return tile;
  }

  #hasAll(row: ChannelRow, columns: readonly number[]): boolean {
    return columns.every((i) => this.#valid(this.#lanes, row, i));
  }

  #groundTile(row: GroundRow, i: number): Tile {
    return (
      this.#valid(this.#ground, row, i) ??
      this.#make(this.#ground, row, i, groundFacts(row), (ctx) =>
        drawGround(ctx, this.#scene!, { ...row, top: 0 }, { left: i * TILE_PX, width: TILE_PX }),
      )
    );
  }

  #laneTile(row: ChannelRow, i: number): Tile {
    const { song, look, pxPerSec } = this.#scene!;
    return (
      this.#valid(this.#lanes, row, i) ??
      this.#make(this.#lanes, row, i, laneFacts(song, row), (ctx) => {
        const own = { ...row, top: 0 };
        // Where a hand was on it, its ground is there by itself.
        const ground = this.#valid(this.#ground, row, i);
        if (ground) ctx.drawImage(ground.canvas, 0, 0, TILE_PX, row.height);
        else drawGround(ctx, this.#scene!, own, { left: i * TILE_PX, width: TILE_PX });
        const left = (i * TILE_PX + RIDE.meterPx) / pxPerSec;
        const scale = { left, pxPerSec, lineX: 0, width: TILE_PX };
        drawLanes(ctx, { song, rows: [own], scale, look, from: -2, to: TILE_PX + 2 });
      })
    );
  }

  #make(
    tiles: Tiles,
    row: GroundRow,
    i: number,
    facts: readonly unknown[],
    paint: (ctx: CanvasRenderingContext2D) => void,
  ): Tile {
    const key = keyOf(row);
    const own = tiles.get(key) ?? new Map<number, Tile>();
    const canvas = own.get(i)?.canvas ?? this.#spare.pop() ?? document.createElement('canvas');
    canvas.width = TILE_PX * this.#dpr;
    canvas.height = Math.max(1, Math.round(row.height * this.#dpr));
    const ctx = canvas.getContext('2d', OPAQUE)!;
    ctx.scale(this.#dpr, this.#dpr);
    paint(ctx);
    const tile = { canvas, facts, row, song: this.#scene!.song, picture: this.#picture };
    tiles.set(key, own.set(i, tile));
    return tile;
  }
}

const keyOf = (row: GroundRow): string =>
  row.kind === 'channel'
    ? row.isHead
      ? row.channel.key
      : `${row.beside ?? ''} ${row.control}`
    : row.kind === 'family'
      ? `family ${row.family}`
      : '';

/** What a row's ground is drawn from, besides what all rows share. */
const groundFacts = (row: GroundRow): readonly unknown[] =>
  row.kind === 'channel' ? [row.height, row.isTall, row.channel.clips] : [row.height];

/** What a row's lanes are drawn from, its ground among it: a slim row shows its front lane alone. */
function laneFacts(song: Song, row: ChannelRow): readonly unknown[] {
  const shown = row.isTall ? controlsOfChannel(song, row.channel).map(({ id }) => id) : [row.control];
  return [
    row.height,
    row.channel,
    row.control,
    song.settings.deskMode,
    row.isTall,
    ...shown.map((id) => song.lanes[id]),
    ...shown.flatMap((id) => swayFacts(song, id)),
    ...(row.isTall ? sumFacts(song, row) : []),
  ];
}

/** What the sway on a lane is drawn from besides, and, of a depth, where it rests. */
function swayFacts(song: Song, id: ControlId): readonly unknown[] {
  const host = hostNamed(id);
  if (host !== null) return [song.lanes[host]];
  return swayOf(song, id) ? [song.lanes[swayControlId(id)], song.tempo] : [];
}

/** What the shadow of the VCAs over a lane is drawn from. */
const sumFacts = (song: Song, { control }: ChannelRow): readonly unknown[] =>
  vcaLevelsOver(song, control).flatMap((id) => [channelOf(song, channelNamed(id)), song.lanes[id]]);

function tilesOf({ songPx, width }: TilePlace): number[] {
  const first = Math.floor(songPx / TILE_PX);
  const last = Math.floor((songPx + width) / TILE_PX);
  return Array.from({ length: last - first + 1 }, (_, k) => first + k);
}

const isSameGround = (a: GroundScene, b: GroundScene): boolean =>
  a.look === b.look &&
  a.pxPerSec === b.pxPerSec &&
  a.map === b.map &&
  a.peakCount === b.peakCount &&
  a.song.sections === b.song.sections &&
  a.song.length === b.song.length;
