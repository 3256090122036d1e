import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import TextField from '@mui/material/TextField';
import type { ReactElement } from 'react';
import type { z } from 'zod';
import { definitionOf } from '#core/passes';
import {
  type PassKind,
  type PassSettings,
  SOLVE,
  inner,
  particlesSettingsSchema,
  resampleSettingsSchema,
  rungTitle,
  stillsSettingsSchema,
} from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import { type PassState, costWithInputs, navigate, useSheet } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { Fields } from '../sheet/fields';
import { PlainRow } from '../sheet/plain-row';
import { CONTROL } from '../sheet/sheet-layout';
import { changePass, withoutPass } from './pass-edits';

const SCHEMAS = {
  resample: resampleSettingsSchema,
  particles: particlesSettingsSchema,
  stills: stillsSettingsSchema,
} as const satisfies Record<PassKind, z.ZodObject>;

const FOLLOWS = 'follows the sheet';
/** Of what is chosen by name, pixels. */
const WIDE = CONTROL + 64;

interface Choice {
  readonly value: string;
  readonly text: string;
}

/** One of a few words, with what none of them means. */
function Pick({
  title,
  help,
  value,
  choices,
  onPick,
}: {
  title: string;
  help: string;
  value: string;
  choices: readonly Choice[];
  onPick: (value: string) => void;
}): ReactElement {
  const c = useColours();
  return (
    <PlainRow title={title} help={help}>
      <Select
        value={value}
        displayEmpty
        inputProps={{ 'aria-label': title }}
        onChange={(e) => onPick(e.target.value)}
        sx={{ width: WIDE, bgcolor: c.page, '& fieldset': { borderColor: c.line } }}
      >
        {choices.map((o) => (
          <MenuItem key={o.value} value={o.value}>
            {o.text}
          </MenuItem>
        ))}
      </Select>
    </PlainRow>
  );
}

/** No pass has this id: it has a space. */
const FOLDER = 'a folder';

/** Where the files lie that a pass reads. */
function FolderPath({ path, onPath }: { path: string; onPath: (path: string) => void }): ReactElement {
  const c = useColours();
  return (
    <PlainRow title="Folder" help="The whole path; the longest series of numbered files in it is read, in the shot's units and axes.">
      <TextField
        key={path}
        defaultValue={path}
        placeholder="/caches/cloud"
        size="small"
        slotProps={{ htmlInput: { 'aria-label': 'Folder of the files', maxLength: 1000 } }}
        onBlur={(e) => {
          const next = e.target.value.trim();
          if (next !== '' && next !== path) onPath(next);
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') (e.target as HTMLElement).blur();
        }}
        sx={{ width: WIDE + 40, bgcolor: c.page, '& input': { py: 0.6, fontSize: 12.5 } }}
      />
    </PlainRow>
  );
}

/** What a pass reads: which pass, at which rung, or one certain run; or files of a folder. */
function Input({ entry, index }: { entry: PassSettings; index: number }): ReactElement {
  const { shot } = useBench();
  const passes = useSheet((s) => s.settings.passes);
  const edit = useSheet((s) => s.edit);
  const put = (input: Partial<PassSettings['input']>): void =>
    void edit((s) => changePass(s, entry.id, (p) => ({ ...p, input: { ...p.input, ...input } })));
  const { input } = entry;
  const above = [{ value: SOLVE, text: 'Solve' }, ...passes.slice(0, index).map((p) => ({ value: p.id, text: p.name }))];
  const runs = [...shot.runs, ...shot.passRuns].filter((r) => r.passId === input.pass && !r.freed && r.framesDone > 0);
  const pins = [
    { value: '', text: FOLLOWS },
    ...runs.map((r) => ({ value: r.id, text: `${rungTitle[r.rung]} · run ${String(r.number)}${r.approved ? ', approved' : ''}` })),
  ];
  const gone = input.run !== null && !runs.some((r) => r.id === input.run);
  return (
    <>
      <Pick
        title="Reads"
        help="The cache that it works on: of the solve, of a pass before it, or numbered .vdb files of a folder on this machine."
        value={input.folder === null ? input.pass : FOLDER}
        choices={[...above, { value: FOLDER, text: 'A folder of .vdb files' }]}
        onPick={(pass) => (pass === FOLDER ? put({ folder: '/', run: null }) : put({ pass, folder: null, run: null }))}
      />
      {input.folder !== null && <FolderPath path={input.folder} onPath={(folder) => put({ folder })} />}
      {input.run === null && input.folder === null && (
        <Pick
          title="At"
          help="A Final can stand on a Test. Same: a Test reads a Test, a Final reads a Final."
          value={input.rung}
          choices={[
            { value: 'same', text: 'Same as its own' },
            { value: 'test', text: 'Test' },
            { value: 'final', text: 'Final' },
          ]}
          onPick={(rung) => put({ rung: rung as PassSettings['input']['rung'] })}
        />
      )}
      {input.folder === null && (
        <Pick
          title="Run"
          help="Pinned to a run it reads that one, whatever the sheet says by then."
          value={input.run ?? ''}
          choices={gone ? [...pins, { value: input.run ?? '', text: 'a run that is gone' }] : pins}
          onPick={(run) => put({ run: run === '' ? null : run })}
        />
      )}
    </>
  );
}

/** A source or a camera of the shot, by its name. */
function Named({ entry }: { entry: PassSettings }): ReactElement | null {
  const sources = useSheet((s) => s.settings.sources);
  const cameras = useSheet((s) => s.fields.cameras);
  const edit = useSheet((s) => s.edit);
  const list = (names: readonly string[], now: string | null, none: string): Choice[] => [
    { value: '', text: none },
    ...[...new Set(now === null || names.includes(now) ? names : [...names, now])].map((n) => ({ value: n, text: n })),
  ];
  if (entry.kind === 'particles') {
    const names = sources.filter((s) => !s.hidden).map((s) => s.name);
    return (
      <Pick
        title="Born on"
        help="A source of the shot, by its name."
        value={entry.settings.source ?? ''}
        choices={list(names, entry.settings.source, 'every source')}
        onPick={(name) =>
          void edit((s) =>
            changePass(s, entry.id, (p) =>
              p.kind === 'particles' ? { ...p, settings: { ...p.settings, source: name === '' ? null : name } } : p,
            ),
          )
        }
      />
    );
  }
  if (entry.kind !== 'stills') return null;
  return (
    <Pick
      title="Camera"
      help="A saved view of the shot, by its name."
      value={entry.settings.camera ?? ''}
      choices={list(
        cameras.map((k) => k.name),
        entry.settings.camera,
        'from the front',
      )}
      onPick={(name) =>
        void edit((s) =>
          changePass(s, entry.id, (p) =>
            p.kind === 'stills' ? { ...p, settings: { ...p.settings, camera: name === '' ? null : name } } : p,
          ),
        )
      }
    />
  );
}

/** What a pass would cost at each rung, with what it reads. */
function Costs({ pass }: { pass: PassState }): ReactElement | null {
  const c = useColours();
  const { passes, predicted } = useBench();
  const settings = useSheet((s) => s.settings);
  const solve = passes.find((p) => p.id === SOLVE);
  const rows = (['test', 'final'] as const).flatMap((rung) => {
    const own = pass[rung];
    if (!own) return [];
    const all = costWithInputs(passes, settings, pass.id, rung);
    // The solve too, when there is none to read.
    const needed = solve?.state !== 'fresh' || solve.run?.rung !== rung ? predicted[rung] : null;
    const first = {
      seconds: all.seconds - own.seconds + (needed?.time?.likely ?? 0),
      bytes: all.bytes - own.bytes + (needed?.disk.likely ?? 0),
    };
    return [{ rung, own, first }];
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
            <span className="mono">{formatSeconds(own.seconds)}</span>
            <span className="mono">{formatBytes(own.bytes)}</span>
            <span style={{ color: c.dim }}>
              {first.seconds > 0.5 ? `after ${formatSeconds(first.seconds)} for what it reads` : 'what it reads is there'}
            </span>
          </Box>
        ))}
      </Box>
      {rows[0]?.own.measured === false && (
        <Box sx={{ color: c.dim, fontSize: 12, mt: 0.5 }}>
          No pass of this kind was computed on this machine yet: it may take a third or three times as long.
        </Box>
      )}
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
  if (!entry) return null;
  const { title, about } = definitionOf(entry.kind);
  const remove = (): void => {
    if (edit((s) => ({ ...s, passes: withoutPass(s.passes, entry.id) }))) navigate({ pass: null, run: null });
  };
  return (
    <Box
      role="tabpanel"
      aria-label={entry.name}
      sx={{ borderRight: `1px solid ${c.line}`, bgcolor: c.panel, minHeight: 0, overflow: 'auto', p: 1.5 }}
    >
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
      {pass.state === 'stale' && pass.because !== null && (
        <Box sx={{ color: c.warning, fontSize: 12.5, mb: 1 }} data-testid="stale-because">
          Stale because of {pass.because}.
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
      <Input entry={entry} index={index} />
      <Box sx={{ mt: 1, pt: 1, borderTop: `1px solid ${c.line}` }}>
        <Named entry={entry} />
        <Fields schema={inner(SCHEMAS[entry.kind]) as z.ZodObject} path={['passes', index, 'settings']} skip={['source', 'camera']} />
      </Box>
      <Costs pass={pass} />
    </Box>
  );
}
