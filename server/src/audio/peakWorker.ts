import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { decodeFrames, readWavInfo } from '@sure-hand/core/formats';
import { PeakMaker, peakBytes } from '@sure-hand/core/mix';

const BLOCK = 65536;

/** A worker thread's job: the peaks of one WAV file. */
export default function peaksOfFile(path: string): Uint8Array {
  const fd = openSync(path, 'r');
  try {
    const head = new Uint8Array(BLOCK);
    const got = readSync(fd, head, 0, BLOCK, 0);
    const read = readWavInfo(head.subarray(0, got), fstatSync(fd).size);
    if (!read.ok) throw new Error(read.sentence);
    const info = read.value;
    const maker = new PeakMaker(info.frames);
    const columns = Array.from({ length: info.channels }, () => new Float32Array(BLOCK));
    const bytes = new Uint8Array(BLOCK * info.bytesPerFrame);
    for (let frame = 0; frame < info.frames; frame += BLOCK) {
      const frames = Math.min(BLOCK, info.frames - frame);
      readSync(fd, bytes, 0, frames * info.bytesPerFrame, info.dataOffset + frame * info.bytesPerFrame);
      decodeFrames(bytes, info, columns, { frames });
      maker.add(columns, frames);
    }
    return peakBytes(maker.finish());
  } finally {
    closeSync(fd);
  }
}
