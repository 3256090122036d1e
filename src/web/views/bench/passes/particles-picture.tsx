import type { ReactElement } from 'react';
import { PassViewport } from './pass-viewport';
import { usePoints } from './points-store';
import type { PictureProps } from './picture-props';

/** Carried particles, coloured by their speed. */
export function ParticlesPicture({ run, frame, stored, moving }: PictureProps): ReactElement {
  const points = usePoints(run?.id ?? null, frame, stored);
  return <PassViewport frame={frame} volume={null} beside={[]} points={points} moving={moving} run={run} />;
}
