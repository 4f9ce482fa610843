import { Layer } from 'konva/lib/Layer.js';
import { Util } from 'konva/lib/Util.js';

/** A canvas that nothing shines through: it is put on the screen without a look at what lies behind it, at half the work. */
export const OPAQUE: CanvasRenderingContext2DSettings = { alpha: false };

/** A layer whose canvas is {@link OPAQUE}: whatever is drawn on it has to fill all of it. */
export function opaqueLayer(config: ConstructorParameters<typeof Layer>[0]): Layer {
  const { createCanvasElement } = Util;
  // A canvas keeps the context that it was asked for first.
  Util.createCanvasElement = () => {
    const canvas = createCanvasElement.call(Util);
    canvas.getContext('2d', OPAQUE);
    return canvas;
  };
  try {
    return new Layer(config);
  } finally {
    Util.createCanvasElement = createCanvasElement;
  }
}
