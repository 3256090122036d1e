import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import TextField from '@mui/material/TextField';
import type { ReactElement } from 'react';
import { type InputRole, type PassInput, type PassSettings, inputsOf, rungTitle, withInput } from '#core/shot';
import { useSheet, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { PlainRow } from '../sheet/plain-row';
import { CONTROL } from '../sheet/sheet-layout';
import { changePass } from './pass-edits';

const FOLLOWS = 'follows the sheet';
/** Of what is chosen by name, pixels. */
export const WIDE = CONTROL + 64;

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
        sx={{ width: WIDE, bgcolor: c.page, '& input': { py: 0.6, fontSize: 12.5 } }}
      />
    </PlainRow>
  );
}

const ROLE_TITLE = { cache: 'Reads', velocity: 'Velocity', more: 'And' } as const satisfies Record<InputRole, string>;
const ROLE_HELP = {
  cache: 'The cache that it works on',
  velocity: 'The cache whose velocity carries them',
  more: 'More particles, in the same skin',
} as const satisfies Record<InputRole, string>;

/** What a pass reads in a role: which pass, at which rung, or one certain run; or files of a folder. */
export function Input({ entry, index, role }: { entry: PassSettings; index: number; role: InputRole }): ReactElement {
  const { shot } = useBench();
  const passes = useSheet((s) => s.settings.passes);
  const edit = useSheet((s) => s.edit);
  const put = (change: Partial<PassInput>): void => void edit((s) => changePass(s, entry.id, (p) => withInput(p, role, change)));
  const input = inputsOf(entry).find((i) => i.role === role)?.input ?? entry.input;
  const of = role === 'cache' ? '' : `${ROLE_TITLE[role]} `;
  const above = passes.slice(0, index).map((p) => ({ value: p.id, text: p.name }));
  const runs = [...shot.runs, ...shot.passRuns].filter((r) => r.passId === input.pass && !r.freed && r.framesDone > 0);
  const pins = [
    { value: '', text: FOLLOWS },
    ...runs.map((r) => ({ value: r.id, text: `${rungTitle[r.rung]} · run ${String(r.number)}${r.approved ? ', approved' : ''}` })),
  ];
  const gone = input.run !== null && !runs.some((r) => r.id === input.run);
  return (
    <>
      <Pick
        title={role === 'cache' ? 'Reads' : ROLE_TITLE[role]}
        help={`${ROLE_HELP[role]}: of the solve, of a pass before it, or numbered .vdb or .ply files of a folder on this machine.`}
        value={input.folder === null ? input.pass : FOLDER}
        choices={[...above, { value: FOLDER, text: 'A folder of files' }]}
        onPick={(pass) => (pass === FOLDER ? put({ folder: '/', run: null }) : put({ pass, folder: null, run: null }))}
      />
      {input.folder !== null && <FolderPath path={input.folder} onPath={(folder) => put({ folder })} />}
      {input.run === null && input.folder === null && (
        <Pick
          title={`${of}at`.replace(/^at/, 'At')}
          help="A Final can stand on a Test. Same: a Test reads a Test, a Final reads a Final."
          value={input.rung}
          choices={[
            { value: 'same', text: 'Same as its own' },
            { value: 'test', text: 'Test' },
            { value: 'final', text: 'Final' },
          ]}
          onPick={(rung) => put({ rung: rung as PassInput['rung'] })}
        />
      )}
      {input.folder === null && (
        <Pick
          title={`${of}run`.replace(/^run/, 'Run')}
          help="Pinned to a run it reads that one, whatever the sheet says by then."
          value={input.run ?? ''}
          choices={gone ? [...pins, { value: input.run ?? '', text: 'a run that is gone' }] : pins}
          onPick={(run) => put({ run: run === '' ? null : run })}
        />
      )}
    </>
  );
}

/** A source, a solid or a camera of the shot, by its name. */
export function Named({ entry }: { entry: PassSettings }): ReactElement | null {
  const { sources, solids } = useSolve();
  const cameras = useSheet((s) => s.fields.cameras);
  const edit = useSheet((s) => s.edit);
  const list = (names: readonly string[], now: string | null, none: string): Choice[] => [
    { value: '', text: none },
    ...[...new Set(now === null || names.includes(now) ? names : [...names, now])].map((n) => ({ value: n, text: n })),
  ];
  if (entry.kind === 'particles') {
    const names = [...sources, ...solids].filter((s) => !s.hidden).map((s) => s.name);
    return (
      <Pick
        title="Born on"
        help="A source of the shot, or a solid (on its surface), by its name."
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
