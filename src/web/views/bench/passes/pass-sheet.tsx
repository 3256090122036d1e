import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import type { ReactElement } from 'react';
import type * as z from 'zod';
import { definitionOf } from '#core/passes';
import {
  type FollowerKind,
  type PassInput,
  type PassSettings,
  inner,
  particlesSettingsSchema,
  detailSettingsSchema,
  heldSettingsSchema,
  retimeSettingsSchema,
  resampleSettingsSchema,
  stillsSettingsSchema,
  surfaceSettingsSchema,
  followersOf,
  inputsOf,
  refillSettingsSchema,
  fedSettingsSchema,
  withFollowers,
} from '#core/shot';
import { type PassState, navigate, useSheet } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { Fields } from '../sheet/fields';
import { PlainRow } from '../sheet/plain-row';
import { changePass, withoutPass } from './pass-edits';
import { Input, Named, WIDE } from './pass-input';
import { PassCosts } from './pass-costs';
import { PassResults } from './pass-results';
import { SizesNote } from './sizes-note';
import { StaleNote } from './stale-note';
import { SurfaceSheet } from '../surface/surface-sheet';

const SCHEMAS = {
  resample: resampleSettingsSchema,
  detail: detailSettingsSchema,
  held: heldSettingsSchema,
  fed: fedSettingsSchema,
  retime: retimeSettingsSchema,
  particles: particlesSettingsSchema,
  refill: refillSettingsSchema,
  surface: surfaceSettingsSchema,
  stills: stillsSettingsSchema,
} as const satisfies Record<FollowerKind, z.ZodObject>;

/** Settings that have a row of their own. */
const NAMED = ['source', 'camera'];
/** Of stills, those that mean nothing for what is read. */
const IDLE = { vdb: ['pointRadius'], ply: ['extinction', 'emission', 'step'], picture: [], mesh: [] } as const;

/** Settings that mean nothing for what is read, or with the others as they are. */
function idleOf(entry: PassSettings, pass: PassState): readonly string[] {
  if (entry.kind === 'stills') return IDLE[pass.reads ?? 'vdb'];
  if (entry.kind === 'refill') return [entry.settings.births === 'once' ? 'perSecond' : 'each'];
  if (entry.kind === 'fed')
    return [
      ...(entry.settings.test === 'all' ? ['least', 'most'] : []),
      ...(entry.settings.density === null ? ['densityRadius', 'colour'] : []),
      ...(entry.settings.heat === null ? ['heatRadius'] : []),
      ...(entry.settings.inherits === 0 ? ['velocitySpread', 'within', 'velocityRadius'] : []),
    ];
  if (entry.kind === 'detail') return entry.settings.near === 'none' ? ['nearValue', 'nearSpread'] : [];
  return [];
}

/** The settings of a pass. */
export function PassSheet({ pass }: { pass: PassState }): ReactElement | null {
  const c = useColours();
  const settings = useSheet((s) => s.settings);
  const edit = useSheet((s) => s.edit);
  const index = settings.passes.findIndex((p) => p.id === pass.id);
  const entry = followersOf(settings).find((p) => p.id === pass.id);
  if (!entry) return null;
  const { title, about } = definitionOf(entry.kind);
  const idle = idleOf(entry, pass);
  const remove = (): void => {
    if (edit((s) => withFollowers(s, withoutPass(followersOf(s), entry.id)))) navigate({ pass: null, run: null });
  };
  return (
    <Box
      role="tabpanel"
      aria-label={entry.name}
      sx={{ borderRight: `1px solid ${c.line}`, bgcolor: c.panel, minHeight: 0, display: 'flex', flexDirection: 'column' }}
    >
      <Box sx={{ overflow: 'auto', p: 1.5, flex: 1, minHeight: 0 }}>
        <Box sx={{ display: 'flex', alignItems: 'baseline', justifyContent: 'space-between' }}>
          <Box component="h2" sx={{ m: 0, fontSize: 15, fontWeight: 650 }}>
            {title}
          </Box>
          <Button size="small" color="inherit" onClick={remove} sx={{ minWidth: 0, color: c.dim, gap: 0.5 }}>
            <Icon name="free" size={13} /> Take out
          </Button>
        </Box>
        <Box sx={{ color: c.dim, fontSize: 12.5, mb: 1 }}>{about}</Box>
        {pass.problem !== null && (
          <Box role="alert" sx={{ border: `1px solid ${c.failed}`, borderRadius: 1.5, p: 1, mb: 1, fontSize: 12.5 }}>
            {pass.problem}
          </Box>
        )}
        <PlainRow title="Name" help="Yours; changes no result.">
          <TextField
            key={entry.name}
            defaultValue={entry.name}
            slotProps={{ htmlInput: { 'aria-label': 'Name of the pass', maxLength: 60 } }}
            onBlur={(e) => {
              const name = e.target.value.trim();
              if (name !== '' && name !== entry.name) edit((s) => changePass(s, entry.id, (p) => ({ ...p, name })));
            }}
            onKeyDown={(e) => {
              if (e.key === 'Enter') (e.target as HTMLElement).blur();
            }}
            size="small"
            sx={{ width: WIDE, bgcolor: c.page, '& input': { py: 0.6, fontSize: 13.5 } }}
          />
        </PlainRow>
        <PlainRow title="On" help="Off: it is left out of what is predicted, and not started.">
          <Switch
            size="small"
            color="secondary"
            checked={entry.enabled}
            sx={{ mr: '-6px' }}
            slotProps={{ input: { 'aria-label': 'On' } }}
            onChange={(e) => void edit((s) => changePass(s, entry.id, (p) => ({ ...p, enabled: e.target.checked })))}
          />
        </PlainRow>
        {inputsOf(entry).map(({ role }) => (
          <Input key={role} entry={entry} index={index} role={role} />
        ))}
        {entry.kind === 'surface' && <MoreParticles entry={entry} />}
        <Box sx={{ mt: 1, pt: 1, borderTop: `1px solid ${c.line}` }}>
          <Named entry={entry} />
          <SizesNote pass={pass} entry={entry} />
          {entry.kind === 'surface' ? (
            <SurfaceSheet entry={entry} index={index} pass={pass} />
          ) : (
            <Fields schema={inner(SCHEMAS[entry.kind]) as z.ZodObject} path={['passes', index, 'settings']} skip={[...NAMED, ...idle]} />
          )}
        </Box>
        <PassCosts pass={pass} entry={entry} />
        <PassResults pass={pass} entry={entry} />
      </Box>
      {pass.state === 'stale' && pass.because !== null && (
        <Box sx={{ color: c.warning, fontSize: 12.5, px: 1.5, py: 0.75, borderTop: `1px solid ${c.line}` }} data-testid="stale-because">
          Stale because of {pass.because}.
        </Box>
      )}
      <StaleNote pass={entry.id} />
    </Box>
  );
}

/** Particles of a second cache in the same skin: read, or not. */
function MoreParticles({ entry }: { entry: Extract<PassSettings, { kind: 'surface' }> }): ReactElement {
  const c = useColours();
  const edit = useSheet((s) => s.edit);
  const put = (more: PassInput | null): void =>
    void edit((s) => changePass(s, entry.id, (p) => (p.kind === 'surface' ? { ...p, more } : p)));
  return (
    <Button
      size="small"
      color="inherit"
      onClick={() => put(entry.more === null ? { ...entry.input } : null)}
      sx={{ color: c.dim, minWidth: 0, gap: 0.5 }}
    >
      {entry.more === null ? (
        <>
          <Icon name="add" size={13} /> More particles in this skin
        </>
      ) : (
        'Only the first'
      )}
    </Button>
  );
}
