import { useEffect } from 'react';
import { useStore } from 'zustand';
import type { ShotDto } from '#protocol';
import { threads, useTellSketching } from './main-sketch';
import { PASS_SKETCH, type PassSketch, type PassSketchState, createPassSketch, passSketchOf } from './pass-sketch';
import { useSheet } from './sheet';
import { type Sketch, sketchById } from './sketch';

let main: PassSketch | null = null;
/** The Sketch of the pass that is on the Bench: one a page. */
export const mainPassSketch = (): PassSketch => (main ??= createPassSketch(threads()));

/** The Sketch that a run's id names, of the solve or of a pass, if it is one. */
export const liveById = (id: string): Pick<Sketch, 'preview' | 'points'> | null => (id === PASS_SKETCH ? mainPassSketch() : sketchById(id));

export const usePassSketch = (): PassSketchState => useStore(mainPassSketch());

/** Keeps the Sketch of a pass on the sheet's settings while it is on, around the frame that it was begun at; ends it with the pass. */
export function usePassSketchLife(shot: ShotDto, pass: string | null): void {
  const { on, computing, pass: sketched, job } = usePassSketch();
  const settings = useSheet((s) => s.settings);
  const fields = useSheet((s) => s.fields);
  const mine = on && pass !== null && sketched === pass;
  const frame = job?.shown ?? null;
  useEffect(() => {
    if (mine && frame !== null) mainPassSketch().show(pass, passSketchOf({ shot, settings, fields }, pass, frame));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- runs that come and go change nothing that it computes
  }, [mine, pass, settings, fields]);
  useEffect(
    () => () => {
      mainPassSketch().stop();
    },
    [shot.id, pass],
  );
  useTellSketching(computing);
}
