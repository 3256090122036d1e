import { zodResolver } from '@hookform/resolvers/zod';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import TextField from '@mui/material/TextField';
import type { ReactElement } from 'react';
import { type Control, Controller, type FieldPathByValue, useForm } from 'react-hook-form';
import type * as z from 'zod';
import { type ShotFields, inner, metaOf, shotFieldsSchema } from '#core/shot';
import { useSheet } from '#web/state';
import { Explained, NumberField, useColours } from '#web/ui';

type Schema = Parameters<typeof inner>[0];
type Values = z.input<typeof shotFieldsSchema>;
type NumberName = FieldPathByValue<Values, number | undefined>;

const FRAMES = ['firstFrame', 'lastFrame', 'preRoll', 'framesPerSecond', 'metresPerUnit', 'timeScale'] as const;
const BUDGETS = ['budgets.time', 'budgets.disk', 'budgets.memory'] as const;

const schemaOf = (name: NumberName): Schema =>
  name.split('.').reduce<Schema>((s, part) => (inner(s) as unknown as { shape: Record<string, Schema> }).shape[part]!, shotFieldsSchema);

/** What belongs to the shot and not to a variant: its frames, its scale, its budgets. */
export function ShotDialog({ onClose }: { onClose: () => void }): ReactElement {
  const c = useColours();
  const form = useForm<Values, unknown, ShotFields>({ resolver: zodResolver(shotFieldsSchema), defaultValues: useSheet.getState().fields });
  const save = form.handleSubmit((fields) => {
    if (useSheet.getState().editSheet((sheet) => ({ ...sheet, fields }), 'Frames and budgets')) onClose();
  });
  const { name } = form.formState.errors;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs">
      <DialogTitle sx={{ fontSize: 16 }}>Frames and budgets of the shot</DialogTitle>
      <form onSubmit={(e) => void save(e)}>
        <DialogContent>
          <TextField
            fullWidth
            margin="dense"
            size="small"
            label="Name"
            error={name !== undefined}
            helperText={name?.message}
            slotProps={{ formHelperText: { role: 'alert' } }}
            {...form.register('name')}
          />
          {FRAMES.map((n) => (
            <NumberRow key={n} name={n} control={form.control} />
          ))}
          <Box sx={{ borderTop: `1px solid ${c.line}`, mt: 1, pt: 1 }}>
            {BUDGETS.map((n) => (
              <NumberRow key={n} name={n} control={form.control} />
            ))}
          </Box>
          <Box sx={{ color: c.dim, fontSize: 12, mt: 1 }}>
            Names and budgets change no cache. A new last frame leaves caches fresh, or partial; the rest makes them stale.
          </Box>
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button variant="contained" type="submit">
            Save
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

/** A number of the shot, with its mistake under it. */
function NumberRow({ name, control }: { name: NumberName; control: Control<Values, unknown, ShotFields> }): ReactElement | null {
  const c = useColours();
  const schema = schemaOf(name);
  const meta = metaOf(schema);
  if (!meta) return null;
  const whole = (inner(schema) as { format?: string }).format === 'safeint';
  return (
    <Controller
      name={name}
      control={control}
      render={({ field, fieldState }) => (
        <Box sx={{ py: 0.5 }}>
          <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center' }}>
            <Explained title={meta.title} help={meta.help} />
            <NumberField
              label={meta.title}
              value={field.value ?? 0}
              unit={meta.unit ?? 'none'}
              min={meta.min}
              max={meta.max}
              integer={whole}
              onChange={field.onChange}
            />
          </Box>
          {fieldState.error && (
            <Box role="alert" sx={{ color: c.failed, fontSize: 12, textAlign: 'right' }}>
              {fieldState.error.message}
            </Box>
          )}
        </Box>
      )}
    />
  );
}
