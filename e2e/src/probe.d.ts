/** The probe that the interface shows to tests; see web/src/open/probe.ts. */
declare global {
  var handAt: { pointerdown?: number; pointerup?: number } | undefined;
  var movedAt: number[] | undefined;
  var curveAt: ((at: { column: number; top: number; height: number }) => number | null) | undefined;
  var sureHandProbe:
    | {
        gain(channel: string): { t: number; gain: number };
        peak(channel: string): number;
        heard(atMs?: number): number;
        counts(): { blocks: number; underruns: number };
        touched(): readonly string[];
        isMoving(): boolean;
        document(): string;
        told(): readonly string[];
        unsent(): number;
        stamped(control: string): readonly { t: number; v: number }[];
        pictures: number[];
        lineX: number;
      }
    | undefined;
}

export {};
