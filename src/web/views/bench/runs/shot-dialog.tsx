import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import { type FieldMeta, type ShotFields, inner, metaOf, shotFieldsSchema } from '#core/shot';
import { useSheet } from '#web/state';
import { NumberField, useColours } from '#web/ui';

type Schema = Parameters<typeof inner>[0];
const fields = shotFieldsSchema.shape;
const budgets = (inner(fields.budgets) as unknown as { shape: Record<string, Schema> }).shape;

/** What belongs to the shot and not to a variant: its frames, its scale, its budgets. */
export function ShotDialog({ onClose }: { onClose: () => void }): ReactElement {
  const c = useColours();
  const [value, setValue] = useState<ShotFields>(useSheet.getState().fields);
  const [error, setError] = useState<string | null>(null);
  const save = (): void => {
    const result = shotFieldsSchema.safeParse(value);
    if (!result.success) {
      setError(result.error.issues.map((i) => i.message).join('\n'));
      return;
    }
    if (useSheet.getState().editSheet((sheet) => ({ ...sheet, fields: result.data }), 'Frames and budgets')) onClose();
  };
  const row = (schema: Schema, current: number, whole: boolean, put: (v: number) => void): ReactElement | null => {
    const meta: FieldMeta | null = metaOf(schema);
    if (!meta) return null;
    return (
      <Box key={meta.title} sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', py: 0.5 }}>
        <Tooltip title={meta.help} placement="left">
          <span tabIndex={0} style={{ cursor: 'help', borderBottom: `1px dotted ${c.line}` }}>
            {meta.title}
          </span>
        </Tooltip>
        <NumberField
          label={meta.title}
          value={current}
          unit={meta.unit ?? 'none'}
          min={meta.min}
          max={meta.max}
          integer={whole}
          onChange={(v) => {
            setError(null);
            put(v);
          }}
        />
      </Box>
    );
  };
  const set = (change: Partial<ShotFields>): void => {
    setValue({ ...value, ...change });
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle sx={{ fontSize: 16 }}>Frames and budgets of the shot</DialogTitle>
      <DialogContent>
        <TextField
          fullWidth
          margin="dense"
          size="small"
          label="Name"
          value={value.name}
          onChange={(e) => {
            set({ name: e.target.value });
          }}
        />
        {row(fields.firstFrame, value.firstFrame, true, (v) => {
          set({ firstFrame: v });
        })}
        {row(fields.lastFrame, value.lastFrame, true, (v) => {
          set({ lastFrame: v });
        })}
        {row(fields.preRoll, value.preRoll, true, (v) => {
          set({ preRoll: v });
        })}
        {row(fields.framesPerSecond, value.framesPerSecond, false, (v) => {
          set({ framesPerSecond: v });
        })}
        {row(fields.metresPerUnit, value.metresPerUnit, false, (v) => {
          set({ metresPerUnit: v });
        })}
        {row(fields.timeScale, value.timeScale, false, (v) => {
          set({ timeScale: v });
        })}
        <Box sx={{ borderTop: `1px solid ${c.line}`, mt: 1, pt: 1 }}>
          {(['time', 'disk', 'memory'] as const).map((k) =>
            row(budgets[k] as Schema, value.budgets[k], false, (v) => {
              set({ budgets: { ...value.budgets, [k]: v } });
            }),
          )}
        </Box>
        <Box sx={{ color: c.dim, fontSize: 12, mt: 1 }}>
          Names and budgets change no cache. A new last frame leaves caches fresh, or partial; the rest makes them stale.
        </Box>
        {error !== null && (
          <Box role="alert" sx={{ color: c.failed, whiteSpace: 'pre-wrap', mt: 1 }}>
            {error}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={save}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  );
}
