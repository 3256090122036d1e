import Box from '@mui/material/Box';
import { type ReactElement, useMemo } from 'react';
import type { Remedy } from '#core/checks';
import { applyEdits } from '#core/shot';
import { useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { applyRemedy } from './apply-remedy';
import { useBench } from '../bench-context';
import { changeText } from '../runs/change-text';

/** A remedy with what it costs; a click puts it on the draft. */
export function RemedyButton({ remedy }: { remedy: Remedy }): ReactElement {
  const c = useColours();
  const { predictor, predicted } = useBench();
  const settings = useSolve();
  const cost = useMemo(() => {
    const mended = applyEdits(settings, remedy.edits);
    const then = mended && predictor.of(mended, 'final');
    return then && predicted.final ? changeText(predicted.final, then) : null;
  }, [settings, remedy, predictor, predicted.final]);
  return (
    <Box
      component="button"
      onClick={() => applyRemedy(remedy)}
      sx={{
        all: 'unset',
        cursor: 'pointer',
        color: c.fresh,
        fontWeight: 600,
        fontSize: 12.5,
        display: 'block',
        '&:hover': { textDecoration: 'underline' },
        '&:focus-visible': { outline: `2px solid ${c.selected}` },
      }}
    >
      {remedy.title}
      {cost !== null && <span style={{ color: c.dim, fontWeight: 400 }}> · {cost}</span>}
    </Box>
  );
}
