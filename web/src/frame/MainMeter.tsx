import { useEffect, useRef, type ReactNode } from 'react';
import { printDb } from '@sure-hand/core/units';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { Tip } from '../parts/Tip.js';

const FLOOR_DB = -48;
/** Figures change so often that they can still be read. */
const WORDS_EVERY_MS = 150;
const SILENT_LUFS = -100;
const shareOf = (db: number): number => Math.max(0, Math.min(1, (db - FLOOR_DB) / -FLOOR_DB));
const lufs = (value: number): string => (value <= SILENT_LUFS ? '−∞' : value.toFixed(1).replace('-', '−'));

/** The mix as it goes out: RMS as a bar, peak as a line before it, short-term loudness and the highest true peak in figures. */
export function MainMeter(): ReactNode {
  const { engine } = useOpenSong();
  const rms = useRef<HTMLDivElement>(null);
  const peak = useRef<HTMLDivElement>(null);
  const loud = useRef<HTMLSpanElement>(null);
  const truePeak = useRef<HTMLSpanElement>(null);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let frame = 0;
    let said = -Infinity;
    const tick = (): void => {
      const now = engine.mainMeter;
      if (rms.current) rms.current.style.transform = `scaleX(${shareOf(now.rmsDb).toFixed(4)})`;
      if (peak.current) peak.current.style.left = `${(100 * shareOf(now.peakDb)).toFixed(2)}%`;
      const at = performance.now();
      if (at - said >= WORDS_EVERY_MS) {
        said = at;
        if (loud.current) loud.current.textContent = lufs(now.shortTerm);
        if (truePeak.current) truePeak.current.textContent = printDb(now.truePeakDb).replace(' dB', '');
        box.current?.classList.toggle('is-over', now.truePeakDb > 0);
      }
      frame = requestAnimationFrame(tick);
    };
    tick();
    return () => cancelAnimationFrame(frame);
  }, [engine]);
  return (
    <Tip
      multiline
      maw={280}
      label="The mix: RMS as the bar, peak as the line before it. Below, loudness over the last 3 s, and the highest true peak since play began."
    >
      <div className="main-meter" ref={box} role="group" aria-label="Main meter" data-testid="main-meter">
        <div className="meter-bar">
          <div className="meter-rms" ref={rms} />
          <div className="meter-peak" ref={peak} />
        </div>
        <div className="meter-words">
          <span>
            <span ref={loud} className="figures" data-testid="short-term" /> LUFS
          </span>
          <span>
            <span ref={truePeak} className="figures" data-testid="true-peak" /> dBTP
          </span>
        </div>
      </div>
    </Tip>
  );
}
