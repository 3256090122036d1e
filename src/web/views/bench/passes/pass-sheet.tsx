import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import type { ReactElement } from 'react';
import type { z } from 'zod';
import { type PassPrediction, definitionOf } from '#core/passes';
import {
  type FollowerKind,
  type PassSettings,
  inner,
  particlesSettingsSchema,
  detailSettingsSchema,
  heldSettingsSchema,
  retimeSettingsSchema,
  resampleSettingsSchema,
  rungTitle,
  stillsSettingsSchema,
  followersOf,
  inputsOf,
  refillSettingsSchema,
  fedSettingsSchema,
  withFollowers,
} from '#core/shot';
import { formatBytes, formatRange, formatSeconds } from '#core/units';
import { type PassState, navigate, useSheet } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { Fields } from '../sheet/fields';
import { PlainRow } from '../sheet/plain-row';
import { changePass, withoutPass } from './pass-edits';
import { Input, Named, WIDE } from './pass-input';
import { PassResults } from './pass-results';
import { SizesNote } from './sizes-note';
import { StaleNote } from './stale-note';
import { useInputCosts } from './use-input-costs';

const SCHEMAS = {
  resample: resampleSettingsSchema,
  detail: detailSettingsSchema,
  held: heldSettingsSchema,
  fed: fedSettingsSchema,
  retime: retimeSettingsSchema,
  particles: particlesSettingsSchema,
  refill: refillSettingsSchema,
  stills: stillsSettingsSchema,
} as const satisfies Record<FollowerKind, z.ZodObject>;

/** Settings that have a row of their own. */
const NAMED = ['source', 'camera'];
/** Of stills, those that mean nothing for what is read. */
const IDLE = { vdb: ['pointRadius'], ply: ['extinction', 'emission', 'step'], picture: [] } as const;

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

const BASIS = {
  'this pass': 'From earlier runs of this pass; the ranges hold nine of ten.',
  'its kind': 'From passes of its kind on this machine; the ranges hold nine of ten.',
  nothing: 'No pass of this kind was computed on this machine yet: it may take a third or three times as long.',
} as const satisfies Record<PassPrediction['from'], string>;

/** What a pass would cost at each rung, with what it reads. */
function Costs({ pass }: { pass: PassState }): ReactElement | null {
  const c = useColours();
  const before = useInputCosts(pass);
  const rows = (['test', 'final'] as const).flatMap((rung) => {
    const own = pass[rung];
    return own ? [{ rung, own, first: before[rung] }] : [];
  });
  if (rows.length === 0) return null;
  return (
    <Box sx={{ mt: 1.5, pt: 1, borderTop: `1px solid ${c.line}` }}>
      <Box sx={{ fontWeight: 600, fontSize: 12.5, mb: 0.5 }}>Predicted</Box>
      <Box
        sx={{ display: 'grid', gridTemplateColumns: 'auto auto auto 1fr', columnGap: 1.5, rowGap: 0.25, fontSize: 12.5 }}
        data-testid="pass-costs"
      >
        {rows.map(({ rung, own, first }) => (
          <Box key={rung} sx={{ display: 'contents' }}>
            <span>{rungTitle[rung]}</span>
            <span className="mono">{formatRange(own.ranges.time.low, own.ranges.time.high, formatSeconds)}</span>
            <span className="mono">{formatRange(own.ranges.disk.low, own.ranges.disk.high, formatBytes)}</span>
            <span className="mono">{formatRange(own.ranges.memory.low, own.ranges.memory.high, formatBytes)}</span>
            <span style={{ color: c.dim }}>
              {first.seconds > 0.5 ? `after ${formatSeconds(first.seconds)} for what it reads` : 'what it reads is there'}
            </span>
          </Box>
        ))}
      </Box>
      <Box sx={{ color: c.dim, fontSize: 12, mt: 0.5 }}>{BASIS[rows[0]?.own.from ?? 'nothing']}</Box>
    </Box>
  );
}

/** The settings of a pass. */
export function PassSheet({ pass }: { pass: PassState }): ReactElement | null {
  const c = useColours();
  const passes = useSheet((s) => s.settings.passes);
  const edit = useSheet((s) => s.edit);
  const index = passes.findIndex((p) => p.id === pass.id);
  const entry = passes[index];
  if (!entry || entry.kind === 'gas') return null;
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
        <Box sx={{ mt: 1, pt: 1, borderTop: `1px solid ${c.line}` }}>
          <Named entry={entry} />
          <SizesNote pass={pass} entry={entry} />
          <Fields schema={inner(SCHEMAS[entry.kind]) as z.ZodObject} path={['passes', index, 'settings']} skip={[...NAMED, ...idle]} />
        </Box>
        <Costs pass={pass} />
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
