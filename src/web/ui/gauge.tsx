import Box from '@mui/material/Box';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { useColours } from './use-colours';

interface GaugeProps {
  readonly title: string;
  /** What is spent, as a person reads it, and the budget. */
  readonly spent: string;
  readonly budget: string;
  /** Spent part of the budget; over 1 is over budget. */
  readonly part: number;
  readonly help: string;
}

export function Gauge({ title, spent, budget, part, help }: GaugeProps): ReactElement {
  const c = useColours();
  const over = part > 1;
  return (
    <Tooltip title={help}>
      <Box
        sx={{ minWidth: 118 }}
        role="meter"
        aria-label={title}
        aria-valuenow={Math.round(part * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuetext={`${spent} of ${budget}`}
      >
        <Box sx={{ display: 'flex', justifyContent: 'space-between', gap: 1, fontSize: 11.5, whiteSpace: 'nowrap' }}>
          <span style={{ color: c.dim }}>{title}</span>
          <span className="mono" style={{ color: over ? c.warning : c.text }}>
            {spent} of {budget}
          </span>
        </Box>
        <Box sx={{ height: 6, mt: 0.5, borderRadius: 3, bgcolor: c.page, border: `1px solid ${c.line}`, overflow: 'hidden' }}>
          <Box sx={{ height: '100%', width: `${String(Math.min(100, part * 100))}%`, bgcolor: over ? c.warning : c.fresh }} />
        </Box>
      </Box>
    </Tooltip>
  );
}
