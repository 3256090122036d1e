import Box from '@mui/material/Box';
import Divider from '@mui/material/Divider';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useState } from 'react';
import { showDifference } from '#core/shot';
import type { VariantDto } from '#protocol';
import { useCommands } from '#web/commands';
import { api, useEdits } from '#web/state';
import { Icon, NameDialog, QuietButton, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { ShotDialog } from './shot-dialog';
import { useVariantActions } from './variant-actions';

/** `draft, from First`. */
const stateOf = (v: VariantDto, all: readonly VariantDto[]): string => {
  const state = v.draft ? 'draft' : v.frozen ? 'used by runs' : 'not run yet';
  return v.parentId === null ? state : `${state}, from ${all.find((p) => p.id === v.parentId)?.name ?? 'a deleted one'}`;
};

/** Which variant is on the sheet, its draft, and what can be done with variants. */
export function VariantMenu(): ReactElement {
  const { shot, variant } = useBench();
  const edits = useEdits();
  const { show, duplicate, remove, revert } = useVariantActions();
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [dialog, setDialog] = useState<'rename' | 'shot' | null>(null);
  useCommands([
    { id: 'variant-rename', title: 'Rename this variant', keys: null, run: () => setDialog('rename') },
    { id: 'variant-duplicate', title: 'Duplicate this variant', keys: null, run: duplicate },
    { id: 'variant-delete', title: 'Delete this variant', keys: null, run: remove },
    { id: 'draft-revert', title: 'Take the draft back', keys: null, run: revert },
    { id: 'shot-fields', title: 'Frames and budgets of the shot', keys: null, run: () => setDialog('shot') },
  ]);
  /** Closes the menu and does it. */
  const then = (run: () => void) => (): void => {
    setMenu(null);
    run();
  };
  return (
    <>
      <VariantButton onOpen={setMenu} />
      <Menu open={menu !== null} anchorEl={menu} onClose={() => setMenu(null)}>
        {shot.variants.map((v) => (
          <MenuItem key={v.id} selected={v.id === variant.id} onClick={then(() => show(v.id))}>
            <ListItemText
              primary={v.name}
              secondary={stateOf(v, shot.variants)}
              slotProps={{ primary: { sx: { fontSize: 13 } }, secondary: { sx: { fontSize: 11 } } }}
            />
          </MenuItem>
        ))}
        <Divider />
        <MenuItem onClick={then(() => setDialog('rename'))}>Rename this variant…</MenuItem>
        <MenuItem onClick={then(duplicate)}>Duplicate this variant</MenuItem>
        <MenuItem onClick={then(remove)} disabled={shot.variants.length < 2}>
          Delete this variant
        </MenuItem>
        <MenuItem onClick={then(revert)} disabled={edits.length === 0}>
          Take the draft back
        </MenuItem>
        <Divider />
        <MenuItem onClick={then(() => setDialog('shot'))}>Frames and budgets of the shot…</MenuItem>
        <MenuItem component="a" href={`/api/shots/${shot.slug}/file`} onClick={() => setMenu(null)}>
          Save the shot file…
        </MenuItem>
      </Menu>
      {dialog === 'rename' && (
        <NameDialog
          title="Rename the variant"
          initial={variant.name}
          action="Rename"
          onSave={async (name) => void (await api.rename(variant.id, name))}
          onClose={() => setDialog(null)}
        />
      )}
      {dialog === 'shot' && <ShotDialog onClose={() => setDialog(null)} />}
    </>
  );
}

/** The variant's name and how many edits its draft has; what they are is said when the pointer is on it. */
function VariantButton({ onOpen }: { onOpen: (anchor: HTMLElement) => void }): ReactElement {
  const c = useColours();
  const { variant } = useBench();
  const edits = useEdits();
  const help =
    edits.length > 0 ? <Box sx={{ whiteSpace: 'pre-wrap' }}>{edits.slice(0, 8).map(showDifference).join('\n')}</Box> : 'Choose a variant';
  return (
    <Tooltip title={help}>
      <span style={{ display: 'inline-block', maxWidth: '100%' }}>
        <QuietButton label={`Variant ${variant.name}`} onClick={(e) => onOpen(e.currentTarget)}>
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
  );
}
