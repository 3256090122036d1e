import Box from '@mui/material/Box';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { useColours } from './use-colours';

interface GaugeProps {
  readonly title: string;
  /** As numbers of the same unit. */
  readonly spent: number;
  readonly predicted: number | null;
  readonly budget: number;
  readonly show: (value: number) => string;
  /** Said at length. */
  readonly help: string;
}

/** A budget: solid what is spent, pale what the draft is predicted to add, against the whole. */
export function Gauge({ title, spent, predicted, budget, show, help }: GaugeProps): ReactElement {
  const c = useColours();
  const sum = spent + (predicted ?? 0);
  const over = sum > budget;
  const part = (v: number): string => `${String(Math.min(100, Math.max(0, (v / budget) * 100)))}%`;
  const amount = predicted === null ? show(spent) : spent > 0 ? `${show(spent)} + ${show(predicted)}` : show(predicted);
  return (
    <Tooltip title={<span style={{ whiteSpace: 'pre-line' }}>{help}</span>}>
      <Box
        sx={{ flex: '1 1 118px', minWidth: 84, maxWidth: 190, overflow: 'hidden' }}
        role="meter"
        tabIndex={0}
        aria-label={title}
        aria-valuenow={Math.round((sum / budget) * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuetext={`${amount} of ${show(budget)}`}
      >
        <Box
          sx={{
            display: 'flex',
            justifyContent: 'space-between',
            gap: 1,
            fontSize: 11,
            lineHeight: 1.25,
            whiteSpace: 'nowrap',
            color: c.dim,
          }}
        >
          <span>{title}</span>
          <span className="mono">of {show(budget)}</span>
        </Box>
        <Box className="mono" sx={{ fontSize: 12, lineHeight: 1.25, whiteSpace: 'nowrap', color: over ? c.warning : c.text }}>
          {spent > 0 && predicted !== null ? (
            <>
              <Box component="span" sx={{ '@media (max-width: 1160px)': { display: 'none' } }}>
                {show(spent)}{' '}
              </Box>
              + {show(predicted)}
            </>
          ) : (
            amount
          )}
        </Box>
        <Box
          sx={{ height: 6, mt: 0.25, borderRadius: 3, bgcolor: c.page, border: `1px solid ${c.line}`, overflow: 'hidden', display: 'flex' }}
        >
          <Box sx={{ width: part(spent), bgcolor: over ? c.warning : c.fresh }} />
          <Box
            sx={{
              width: part(predicted ?? 0),
              bgcolor: over ? c.warning : c.fresh,
              opacity: 0.42,
              borderRight: predicted ? `2px solid ${c.text}` : 'none',
            }}
          />
        </Box>
      </Box>
    </Tooltip>
  );
}
