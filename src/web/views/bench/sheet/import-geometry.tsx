import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import LinearProgress from '@mui/material/LinearProgress';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { type ReactElement, type ReactNode, useCallback, useState } from 'react';
import { create } from 'zustand';
import { FILE_UNITS, type FileUnit, importedShape } from '#core/shot';
import { formatBytes, formatCount, formatQuantity, formatSeconds } from '#core/units';
import type { GeometryInfo } from '#protocol';
import { type RunningImport, startImport, useImportProgress, useSheet } from '#web/state';
import { FileDrop, Icon, useColours } from '#web/ui';
import { addImported } from './items';
import { pickFiles } from './pick-file';

/** What a file can become. */
type ItemGroup = 'sources' | 'solids';

const A_PICTURE = 'A picture has no shape. It can mask what a source emits: open the source, and set its "Mask on emission".';
const ENDINGS = '.obj,.ply,.stl,.glb,.vdb,.zip';

interface Importing {
  readonly file: string;
  readonly group: ItemGroup;
  readonly info: GeometryInfo | null;
  readonly error: string | null;
  /** While the server reads it. */
  readonly running: RunningImport | null;
}

const useImporting = create<{ readonly now: Importing | null }>(() => ({ now: null }));

/** Several numbered .ply files are one series: sent as a .zip. */
async function asOne(files: readonly File[]): Promise<File | null> {
  const [first] = files;
  if (!first || files.length === 1) return first ?? null;
  const { zipSync } = await import('fflate');
  const parts: Record<string, Uint8Array> = {};
  for (const f of files) parts[f.name] = new Uint8Array(await f.arrayBuffer());
  const name = first.name.replace(/[._-]?-?\d+\.ply$/i, '') || 'points';
  return new File([zipSync(parts, { level: 0 })], `${name}.zip`);
}

/** Sends a file to the server, and asks for its unit when it is known what is in it. */
export async function importGeometryFiles(files: readonly File[], group: ItemGroup): Promise<void> {
  const file = await asOne(files);
  if (!file) return;
  const running = startImport(file);
  const begun: Importing = { file: file.name, group, info: null, error: null, running };
  useImporting.setState({ now: begun });
  let next: Importing;
  try {
    const info = await running.done;
    next = { ...begun, running: null, ...(info.kind === 'picture' ? { error: A_PICTURE } : { info }) };
  } catch (error) {
    next = { ...begun, running: null, error: error instanceof Error ? error.message : String(error) };
  }
  // Closed meanwhile, or another file: nothing more to say about this one.
  if (useImporting.getState().now === begun) useImporting.setState({ now: next });
}

/** Lets the user pick a file. */
export function pickGeometry(group: ItemGroup): void {
  pickFiles('Geometry file', ENDINGS, true, (files) => void importGeometryFiles(files, group));
}

export function ImportButton({ group }: { group: ItemGroup }): ReactElement {
  const c = useColours();
  return (
    <Button color="inherit" variant="outlined" size="small" onClick={() => pickGeometry(group)} sx={{ borderColor: c.line }}>
      From a file…
    </Button>
  );
}

/** Takes geometry files that are dropped on what is in it. */
export function GeometryDrop({ group, children }: { group: ItemGroup; children: ReactNode }): ReactElement {
  const onDrop = useCallback((files: readonly File[]) => void importGeometryFiles(files, group), [group]);
  return (
    <FileDrop
      invitation="Drop a mesh (.obj .ply .stl .glb), a signed distance (.vdb) or points (numbered .ply)"
      onDrop={onDrop}
      sx={{ display: 'grid' }}
    >
      {children}
    </FileDrop>
  );
}

/** Shows what is in a file, asks for its unit and which way it stands, and adds it once. */
export function ImportDialog(): ReactElement | null {
  const current = useImporting((s) => s.now);
  // It goes on showing what it showed while it closes: taken away at once, it would leave the page hidden from screen readers.
  const [now, setNow] = useState(current);
  if (current && current !== now) setNow(current);
  const c = useColours();
  const close = (): void => {
    current?.running?.cancel();
    useImporting.setState({ now: null });
  };
  if (!now) return null;
  return (
    <Dialog open={current !== null} onClose={close} fullWidth maxWidth="xs" aria-labelledby="import-title">
      <DialogTitle id="import-title" sx={{ fontSize: 16, pb: 0.5 }}>
        {now.file}
      </DialogTitle>
      {now.info ? (
        <ImportChoices key={now.info.hash} info={now.info} first={now.group} onClose={close} />
      ) : (
        <>
          <DialogContent>
            {now.error === null ? (
              <Reading id={now.running?.id ?? ''} />
            ) : (
              <Box role="alert" sx={{ color: c.failed }}>
                {now.error}
              </Box>
            )}
          </DialogContent>
          <DialogActions>
            <Button color="inherit" onClick={close}>
              {now.error === null ? 'Cancel' : 'Close'}
            </Button>
          </DialogActions>
        </>
      )}
    </Dialog>
  );
}

/** How far the server has come with a file. */
function Reading({ id }: { id: string }): ReactElement {
  const progress = useImportProgress((s) => s[id]);
  const part = progress?.part ?? null;
  const stage = progress === undefined ? 'sending' : progress.stage === 'queued' ? 'queued behind other imports' : progress.stage;
  return (
    <Box role="status">
      <Box sx={{ mb: 1 }}>
        {stage.charAt(0).toUpperCase()}
        {stage.slice(1)}
        {part === null ? '' : `, ${(part * 100).toFixed(0)} %`}
      </Box>
      <LinearProgress
        color="secondary"
        {...(part === null ? {} : { variant: 'determinate' as const, value: part * 100 })}
        aria-label="Import"
      />
    </Box>
  );
}

function ImportChoices({ info, first, onClose }: { info: GeometryInfo; first: ItemGroup; onClose: () => void }): ReactElement {
  const c = useColours();
  const [unit, setUnit] = useState<FileUnit>(info.unit);
  // What is printed and cut in workshops stands on z; scenes stand on y.
  const [up, setUp] = useState<'y' | 'z'>(/\.(stl|vdb)$/i.test(info.file) ? 'z' : 'y');
  const scale = FILE_UNITS[unit].metres;
  const sizes = up === 'y' ? info.size : ([info.size[0], info.size[2], info.size[1]] as const);
  const metres = (v: number): string => formatQuantity(v * scale, 'metre', { digits: 3 });
  const add = (group: ItemGroup): void => {
    addImported(group, importedShape(info, scale, up, useSheet.getState().fields.framesPerSecond), info.sheet);
    onClose();
  };
  const other: ItemGroup = first === 'solids' ? 'sources' : 'solids';
  const name = { sources: 'source', solids: 'solid' } as const;
  return (
    <>
      <DialogContent sx={{ fontSize: 13 }}>
        <Box sx={{ color: c.dim, mb: 1.5 }}>
          {info.kind === 'mesh'
            ? `${formatCount(info.triangles)} triangles`
            : info.kind === 'points'
              ? info.seconds > 0
                ? `Points at ${String(info.seconds + 1)} frames from ${String(info.first)}`
                : 'Points'
              : 'A signed distance'}
          , {formatBytes(info.bytes)}
          {info.kind === 'mesh' && info.seconds > 0 && `, moves for ${formatSeconds(info.seconds)}`}
        </Box>
        <Box sx={{ display: 'flex', gap: 1.5, mb: 1.5 }}>
          <TextField select label="A file unit is" value={unit} sx={{ flex: 1 }} onChange={(e) => setUnit(e.target.value as FileUnit)}>
            {(Object.keys(FILE_UNITS) as FileUnit[]).map((u) => (
              <MenuItem key={u} value={u}>
                one {u}
                {u === info.unit ? ' (guessed)' : ''}
              </MenuItem>
            ))}
          </TextField>
          <TextField select label="Up in the file" value={up} sx={{ width: 130 }} onChange={(e) => setUp(e.target.value as 'y' | 'z')}>
            <MenuItem value="y">y axis</MenuItem>
            <MenuItem value="z">z axis</MenuItem>
          </TextField>
        </Box>
        <Box sx={{ mb: info.notes.length > 0 ? 1.25 : 0 }}>
          It will be <b className="mono">{metres(sizes[0])}</b> wide, <b className="mono">{metres(sizes[1])}</b> high,{' '}
          <b className="mono">{metres(sizes[2])}</b> deep.
        </Box>
        {info.notes.map((note) => (
          <Box key={note} sx={{ display: 'flex', gap: 1, color: c.warning, mb: 0.5 }}>
            <Box sx={{ pt: 0.25, flexShrink: 0 }}>
              <Icon name="note" size={14} />
            </Box>
            {note}
          </Box>
        ))}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose} sx={{ mr: 'auto' }}>
          Cancel
        </Button>
        <Button color="inherit" onClick={() => add(other)}>
          Add as a {name[other]}
        </Button>
        <Button variant="contained" onClick={() => add(first)}>
          Add as a {name[first]}
        </Button>
      </DialogActions>
    </>
  );
}
