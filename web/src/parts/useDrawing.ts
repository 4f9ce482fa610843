import { useEffect, useRef, useSyncExternalStore, type RefObject } from 'react';
import { Konva } from 'konva/lib/Global.js';
import type { Layer } from 'konva/lib/Layer.js';
import { Shape, type ShapeConfig } from 'konva/lib/Shape.js';
import { Stage } from 'konva/lib/Stage.js';
import { notePicture } from '../open/probe.js';
import { opaqueLayer } from './opaqueLayer.js';

// Each picture says itself when it is drawn: that something was put on a canvas is no reason.
Konva.autoDrawEnabled = false;

/** A picture that draws itself where it has changed; `scale` says where its now line stands, where it has one. */
export type Picture = {
  isStale(nowMs: number): boolean;
  draw(ctx: CanvasRenderingContext2D): void;
  readonly scale?: { readonly lineX: number };
};

/** A canvas in a box, and a picture on it: drawn before the browser paints where it has changed, and at once in a new size. */
export function useDrawing(picture: Picture, width: number, height: number): RefObject<HTMLDivElement | null> {
  const box = useRef<HTMLDivElement>(null);
  const layer = useRef<Layer | null>(null);
  // A canvas that is being made, or given its size, is drawn by its layer at every step of that; the picture is drawn once, after them:
  // its first with the next frame, of which there is none yet.
  const isInMaking = useRef(true);
  const isNew = useRef(true);
  useEffect(() => {
    isInMaking.current = true;
    isNew.current = true;
    const stage = new Stage({ container: box.current!, listening: false });
    // Nothing here is hit by it: gestures are told by the box, and the scene alone is ever drawn.
    // Each picture fills all that it draws: what is left of the one before stands.
    layer.current = opaqueLayer({ listening: false, clearBeforeDraw: false });
    const sceneFunc: ShapeConfig['sceneFunc'] = (context) => {
      if (!isInMaking.current) picture.draw(context._context as CanvasRenderingContext2D);
    };
    layer.current.add(new Shape({ listening: false, perfectDrawEnabled: false, sceneFunc }));
    stage.add(layer.current);
    let frame = 0;
    const tick = (): void => {
      const began = performance.now();
      if (picture.isStale(began) || isNew.current) layer.current?.drawScene();
      isNew.current = false;
      notePicture(performance.now() - began, picture.scale?.lineX);
      frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => {
      cancelAnimationFrame(frame);
      stage.destroy();
    };
  }, [picture]);
  const ratio = usePixelRatio();
  // A new size empties the canvas, and may come after this frame's picture.
  useEffect(() => {
    isInMaking.current = true;
    layer.current?.getCanvas().setPixelRatio(ratio);
    layer.current?.getStage()?.size({ width, height });
    isInMaking.current = false;
    if (!isNew.current) layer.current?.drawScene();
  }, [picture, width, height, ratio]);
  return box;
}

/** How many pixels of the screen there are to one of the page: another on another screen, and as the browser zooms. */
const usePixelRatio = (): number => useSyncExternalStore(onPixelRatio, () => window.devicePixelRatio || 1);

/** Calls back where there are more of them, or fewer. */
function onPixelRatio(listener: () => void): () => void {
  let end = (): void => undefined;
  const watch = (): void => {
    const query = window.matchMedia(`(resolution: ${window.devicePixelRatio}dppx)`);
    const change = (): void => {
      end();
      watch();
      listener();
    };
    query.addEventListener('change', change);
    end = () => query.removeEventListener('change', change);
  };
  watch();
  return () => end();
}
