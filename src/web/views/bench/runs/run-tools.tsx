import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Popover from '@mui/material/Popover';
import TextField from '@mui/material/TextField';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import { canonicalJson } from '#core/shot';
import { formatBytes } from '#core/units';
import type { AnyRunDto } from '#protocol';
import { api, say, sayError, useSheet } from '#web/state';
import { Icon, useColours } from '#web/ui';
import { useBench } from '../bench-context';

const listed = (frames: readonly number[], what: string): string =>
  frames.length === 0
    ? ''
    : `${frames.length === 1 ? 'frame' : 'frames'} ${frames.slice(0, 12).join(', ')}${frames.length > 12 ? ' …' : ''} ${frames.length === 1 ? 'is' : 'are'} ${what}`;

/** Notes, folder, checking, freeing: of a run of the server. */
export function RunTools({ run, free }: { run: Omit<AnyRunDto, 'rung'>; free: (() => void) | null }): ReactElement {
  const c = useColours();
  const [noting, setNoting] = useState<HTMLElement | null>(null);
  const [text, setText] = useState('');
  const { shot } = useBench();
  const used = shot.variants.find((v) => v.id === run.variantId)?.settings ?? null;
  const onSheet = useSheet((s) => s.settings);
  const edit = useSheet((s) => s.edit);
  const differs = used !== null && canonicalJson(used) !== canonicalJson(onSheet);
  const verify = (): void => {
    api
      .verify(run.id)
      .then(({ files, damaged, missing, unreadable, foreign }) => {
        const lost = [listed(damaged, 'damaged'), listed(missing, 'missing'), listed(unreadable, 'unreadable now')].filter((t) => t !== '');
        const others = foreign.length === 0 ? '' : ` Not of this run: ${foreign.slice(0, 3).join(', ')}${foreign.length > 3 ? ' …' : ''}.`;
        say(
          lost.length > 0 ? 'error' : 'success',
          lost.length > 0
            ? `Run ${String(run.number)}: ${lost.join('; ')}.${others}`
            : `Run ${String(run.number)}: all ${String(files)} files are as they were written.${others}`,
        );
      })
      .catch(sayError);
  };
  const close = (): void => {
    setNoting(null);
    if (text !== run.notes) api.setNotes(run.id, text).catch(sayError);
  };
  return (
    <Box sx={{ display: 'flex', flexShrink: 0 }}>
      <Tooltip title={run.notes === '' ? 'Write a note about this run' : `Note: ${run.notes}`}>
        <IconButton
          size="small"
          aria-label="Note about this run"
          onClick={(e) => {
            setText(run.notes);
            setNoting(e.currentTarget);
          }}
        >
          <Icon name="note" size={15} />
        </IconButton>
      </Tooltip>
      <Popover open={noting !== null} anchorEl={noting} onClose={close} anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}>
        <TextField
          autoFocus
          multiline
          minRows={3}
          value={text}
          placeholder="What is seen, what to try next"
          slotProps={{ htmlInput: { 'aria-label': 'Note', maxLength: 4000 } }}
          onChange={(e) => setText(e.target.value)}
          sx={{ width: 300, m: 1 }}
        />
      </Popover>
      <Tooltip title={`Copy the cache's folder: ${run.folder}`}>
        <IconButton
          size="small"
          aria-label="Copy the cache's path"
          onClick={() =>
            void navigator.clipboard.writeText(run.folder).then(
              () => {
                say('success', `Copied: ${run.folder}`);
              },
              () => {
                say('warning', run.folder);
              },
            )
          }
        >
          <Icon name="copy" size={15} />
        </IconButton>
      </Tooltip>
      {differs && (
        <Tooltip title="Put the settings of this run on the sheet; can be undone">
          <IconButton
            size="small"
            aria-label="Put this run's settings on the sheet"
            onClick={() => {
              if (edit(() => used)) say('info', `The settings of run ${String(run.number)} are on the sheet.`);
            }}
          >
            <Icon name="take" size={15} />
          </IconButton>
        </Tooltip>
      )}
      {!run.freed && run.framesDone > 0 && run.state !== 'running' && (
        <Tooltip title="Check every file against its checksum">
          <IconButton size="small" aria-label="Check this run's files" onClick={verify}>
            <Icon name="check" size={15} />
          </IconButton>
        </Tooltip>
      )}
      {!run.freed && run.state === 'done' && (
        <Tooltip
          title={run.approved ? 'Approved: its cache is kept. Press to take that back' : 'Approve: its cache is not freed without asking'}
        >
          <IconButton
            size="small"
            aria-label="Approve this run"
            aria-pressed={run.approved}
            onClick={() => void api.setApproved(run.id, !run.approved).catch(sayError)}
            sx={{ color: run.approved ? c.fresh : c.text }}
          >
            <Icon name="approve" size={15} />
          </IconButton>
        </Tooltip>
      )}
      {free && (
        <Tooltip title={`Free its cache (${formatBytes(run.bytes)}); can be undone until the space is needed`}>
          <IconButton size="small" aria-label="Free this run's cache" onClick={free}>
            <Icon name="free" size={15} />
          </IconButton>
        </Tooltip>
      )}
    </Box>
  );
}
