import type { FadeShape } from '../song/index.js';
import type { Gain } from '../units/index.js';

/** The gain of a fade at u, 0 (silent) … 1 (full): straight, a quarter of a sine, or half a cosine (slow at both ends). */
export function fadeGain(shape: FadeShape, u: number): Gain {
  switch (shape) {
    case 'line':
      return u;
    case 'round':
      return Math.sin((u * Math.PI) / 2);
    case 's':
      return (1 - Math.cos(u * Math.PI)) / 2;
  }
}
