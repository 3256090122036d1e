import { solveOf } from '#core/shot';
import { mainPassSketch, mainSketch, navigate, passSketchOf, useMainSketch, usePassSketch, useSheet } from '#web/state';
import { useBench } from '../bench-context';
import { SKETCH } from '../runs/shown-run';

/** Begins the Sketch of the pass that is looked at, around a frame. */
export function useSketchPass(): (frame: number) => void {
  const { shot, pass } = useBench();
  return (frame) => {
    if (!pass) return;
    const { settings, fields } = useSheet.getState();
    mainPassSketch().stop();
    mainPassSketch().show(pass.id, passSketchOf({ shot, settings, fields }, pass.id, frame));
  };
}

/** The Sketch of what is looked at, of the solve or of a pass: whether it is on, and how it is begun or ended. Without a frame the last one is shown. */
export function useSketchToggle(frame: number | null): { readonly on: boolean; readonly toggle: () => void } {
  const { pass } = useBench();
  const main = useMainSketch();
  const passSketch = usePassSketch();
  const sketchPass = useSketchPass();
  const onPass = pass !== null && passSketch.on && passSketch.pass === pass.id;
  const toggle = (): void => {
    if (pass) {
      if (onPass) mainPassSketch().stop();
      else sketchPass(frame ?? useSheet.getState().fields.lastFrame);
      return;
    }
    if (main.on) {
      mainSketch().stop();
      return;
    }
    const { fields, settings } = useSheet.getState();
    mainSketch().show(fields, solveOf(settings));
    navigate({ run: SKETCH, with: null });
  };
  return { on: pass ? onPass : main.on, toggle };
}
