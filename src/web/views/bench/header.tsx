import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useCallback, useEffect, useState } from 'react';
import { rungTitle, showDifference } from '#core/shot';
import { formatBytes, formatSeconds } from '#core/units';
import type { ShotDto, VariantDto } from '#protocol';
import { commands } from '#web/commands';
import { ApiError, api, navigate, say, useEdits, useSheet } from '#web/state';
import { Gauge, Icon, QuietButton, useColours } from '#web/ui';
import { RenameDialog } from './rename-dialog';
import { ShotDialog } from './shot-dialog';

export function BenchHeader({ shot, variant }: { shot: ShotDto; variant: VariantDto }): ReactElement {
  const c = useColours();
  const edits = useEdits();
  const sheet = useSheet();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [dialog, setDialog] = useState<'rename' | 'shot' | null>(null);
  const [starting, setStarting] = useState(false);

  const { flush, stepBack, stepForward } = sheet;
  const start = useCallback(
    async (rung: 'test' | 'final'): Promise<void> => {
      setStarting(true);
      try {
        await flush();
        const run = await api.start(variant.id, rung);
        navigate({ variant: run.variantId, run: run.id, frame: null });
        say('success', `${rungTitle[rung]} started as run ${String(run.number)}.`);
      } catch (error) {
        say('error', error instanceof ApiError ? error.message : String(error));
      } finally {
        setStarting(false);
      }
    },
    [flush, variant.id],
  );
  useEffect(
    () =>
      commands.register([
        { id: 'test', title: 'Start the Test', keys: 'Shift+t', run: () => void start('test') },
        { id: 'final', title: 'Start the Final', keys: 'Shift+f', run: () => void start('final') },
        { id: 'undo', title: 'Undo the last edit', keys: 'Ctrl+z', run: stepBack },
        { id: 'redo', title: 'Redo', keys: 'Ctrl+Shift+z', run: stepForward },
      ]),
    [start, stepBack, stepForward],
  );

  const seconds = shot.runs.reduce((n, r) => n + r.seconds, 0);
  const disk = shot.runs.reduce((n, r) => n + r.bytes, 0);
  const memory = Math.max(0, ...shot.runs.filter((r) => r.variantId === variant.id).map((r) => r.memoryBytes));
  const { budgets } = shot.fields;
  return (
    <Box
      component="header"
      sx={{ display: 'flex', alignItems: 'center', gap: 2, px: 2, borderBottom: `1px solid ${c.line}`, bgcolor: c.panel, minWidth: 0 }}
    >
      <Box sx={{ minWidth: 150, maxWidth: 240 }}>
        <Box
          component="h1"
          sx={{ m: 0, fontSize: 15, fontWeight: 650, lineHeight: 1.2, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
        >
          {shot.fields.name}
        </Box>
        <Tooltip
          title={
            edits.length > 0 ? (
              <Box sx={{ whiteSpace: 'pre-wrap' }}>{edits.slice(0, 8).map(showDifference).join('\n')}</Box>
            ) : (
              'Choose a variant'
            )
          }
        >
          <span style={{ display: 'inline-block', maxWidth: '100%' }}>
            <QuietButton
              label={`Variant ${variant.name}`}
              onClick={(e) => {
                setMenu(e.currentTarget);
              }}
            >
              <span style={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{variant.name}</span>
              <Icon name="down" size={12} />
              {edits.length > 0 && (
                <span style={{ color: c.warning, whiteSpace: 'nowrap' }}>
                  draft, {edits.length} {edits.length === 1 ? 'edit' : 'edits'}
                </span>
              )}
            </QuietButton>
          </span>
        </Tooltip>
        <Menu
          open={menu !== null}
          anchorEl={menu}
          onClose={() => {
            setMenu(null);
          }}
        >
          {shot.variants.map((v) => (
            <MenuItem
              key={v.id}
              selected={v.id === variant.id}
              onClick={() => {
                setMenu(null);
                void flush().then(() => {
                  navigate({ variant: v.id, run: null, frame: null });
                });
              }}
            >
              <ListItemText
                primary={v.name}
                secondary={v.draft ? 'draft' : v.frozen ? 'used by runs' : 'not run yet'}
                slotProps={{ primary: { sx: { fontSize: 13 } }, secondary: { sx: { fontSize: 11 } } }}
              />
            </MenuItem>
          ))}
          <MenuItem divider disabled sx={{ p: 0, minHeight: 0 }} />
          <MenuItem
            onClick={() => {
              setMenu(null);
              setDialog('rename');
            }}
          >
            Rename this variant…
          </MenuItem>
          <MenuItem
            onClick={() => {
              setMenu(null);
              setDialog('shot');
            }}
          >
            Frames and budgets of the shot…
          </MenuItem>
          <MenuItem
            component="a"
            href={`/api/shots/${shot.slug}/file`}
            onClick={() => {
              setMenu(null);
            }}
          >
            Save the shot file…
          </MenuItem>
        </Menu>
      </Box>
      <Box sx={{ display: 'flex' }}>
        <Tooltip title="Undo (Ctrl+Z)">
          <span>
            <IconButton size="small" aria-label="Undo" disabled={sheet.undo.length === 0} onClick={stepBack}>
              <Icon name="undo" />
            </IconButton>
          </span>
        </Tooltip>
        <Tooltip title="Redo (Ctrl+Shift+Z)">
          <span>
            <IconButton size="small" aria-label="Redo" disabled={sheet.redo.length === 0} onClick={stepForward}>
              <Icon name="redo" />
            </IconButton>
          </span>
        </Tooltip>
      </Box>
      <Gauge
        title="Time"
        spent={formatSeconds(seconds)}
        budget={formatSeconds(budgets.time)}
        part={seconds / budgets.time}
        help="Computing time of this shot's runs, of its budget."
      />
      <Gauge
        title="Disk"
        spent={formatBytes(disk)}
        budget={formatBytes(budgets.disk)}
        part={disk / budgets.disk}
        help="Disk that this shot's caches take, of its budget. Freed caches do not count."
      />
      <Gauge
        title="Memory"
        spent={formatBytes(memory)}
        budget={formatBytes(budgets.memory)}
        part={memory / budgets.memory}
        help="Most memory that a run of this variant took, of its budget."
      />
      <Box sx={{ flex: 1 }} />
      <Tooltip title="Half as fine as the settings say: quick, for judging motion (Shift+T)">
        <span>
          <Button
            variant="outlined"
            color="inherit"
            disabled={starting}
            onClick={() => void start('test')}
            sx={{ borderColor: c.line, bgcolor: c.raised, px: 2, height: 34 }}
          >
            Test
          </Button>
        </span>
      </Tooltip>
      <Tooltip title="As fine as the settings say (Shift+F)">
        <span>
          <Button variant="contained" disabled={starting} onClick={() => void start('final')} sx={{ px: 2.5, height: 34 }}>
            Final
          </Button>
        </span>
      </Tooltip>
      {dialog === 'rename' && (
        <RenameDialog
          variant={variant}
          onClose={() => {
            setDialog(null);
          }}
        />
      )}
      {dialog === 'shot' && (
        <ShotDialog
          shot={shot}
          onClose={() => {
            setDialog(null);
          }}
        />
      )}
    </Box>
  );
}
