import Box from '@mui/material/Box';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Tooltip from '@mui/material/Tooltip';
import { type ReactElement, useEffect, useState } from 'react';
import { showDifference } from '#core/shot';
import { commands } from '#web/commands';
import { api, navigate, queryClient, say, useEdits, useSheet } from '#web/state';
import { Icon, NameDialog, QuietButton, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { ShotDialog } from './shot-dialog';

const failed = (error: unknown): void => {
  say('error', error instanceof Error ? error.message : String(error));
};

/** Which variant is on the sheet, its draft, and what can be done with variants. */
export function VariantMenu(): ReactElement {
  const c = useColours();
  const { shot, variant } = useBench();
  const edits = useEdits();
  const flush = useSheet((s) => s.flush);
  const edit = useSheet((s) => s.edit);
  const base = useSheet((s) => s.base);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const [dialog, setDialog] = useState<'rename' | 'shot' | null>(null);

  const duplicate = async (): Promise<void> => {
    await flush();
    const { id } = await api.duplicate(variant.id);
    await queryClient.invalidateQueries({ queryKey: ['shot'] });
    navigate({ variant: id, run: null, frame: null, with: null });
    say('success', `${variant.name} is duplicated.`);
  };
  const remove = async (): Promise<void> => {
    await flush();
    await api.deleteVariant(variant.id);
    const other = shot.variants.find((v) => v.id !== variant.id);
    await queryClient.invalidateQueries({ queryKey: ['shot'] });
    navigate({ variant: other?.id ?? null, run: null, frame: null, with: null });
    say('info', `${variant.name} is deleted, its caches are freed.`, {
      title: 'Undo',
      run: () => {
        api
          .restoreVariant(variant.id)
          .then(() => {
            navigate({ variant: variant.id });
          })
          .catch(failed);
      },
    });
  };
  const revert = (): void => {
    if (edit(() => base)) say('info', 'The draft is taken back.', { title: 'Undo', run: useSheet.getState().stepBack });
  };

  useEffect(
    () =>
      commands.register([
        {
          id: 'variant-rename',
          title: 'Rename this variant',
          keys: null,
          run: () => {
            setDialog('rename');
          },
        },
        { id: 'variant-duplicate', title: 'Duplicate this variant', keys: null, run: () => void duplicate().catch(failed) },
        { id: 'variant-delete', title: 'Delete this variant', keys: null, run: () => void remove().catch(failed) },
        { id: 'draft-revert', title: 'Take the draft back', keys: null, run: revert },
        {
          id: 'shot-fields',
          title: 'Frames and budgets of the shot',
          keys: null,
          run: () => {
            setDialog('shot');
          },
        },
      ]),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- registered anew with the variant they act on
    [variant, shot, base],
  );

  const item = (title: string, run: () => void, disabled = false): ReactElement => (
    <MenuItem
      disabled={disabled}
      onClick={() => {
        setMenu(null);
        run();
      }}
    >
      {title}
    </MenuItem>
  );
  return (
    <>
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
                navigate({ variant: v.id, run: null, frame: null, with: null });
              });
            }}
          >
            <ListItemText
              primary={v.name}
              secondary={[
                v.draft ? 'draft' : v.frozen ? 'used by runs' : 'not run yet',
                ...(v.parentId === null ? [] : [`from ${shot.variants.find((p) => p.id === v.parentId)?.name ?? 'a deleted one'}`]),
              ].join(', ')}
              slotProps={{ primary: { sx: { fontSize: 13 } }, secondary: { sx: { fontSize: 11 } } }}
            />
          </MenuItem>
        ))}
        <MenuItem divider disabled sx={{ p: 0, minHeight: 0 }} />
        {item('Rename this variant…', () => {
          setDialog('rename');
        })}
        {item('Duplicate this variant', () => void duplicate().catch(failed))}
        {item('Delete this variant', () => void remove().catch(failed), shot.variants.length < 2)}
        {item('Take the draft back', revert, edits.length === 0)}
        <MenuItem divider disabled sx={{ p: 0, minHeight: 0 }} />
        {item('Frames and budgets of the shot…', () => {
          setDialog('shot');
        })}
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
      {dialog === 'rename' && (
        <NameDialog
          title="Rename the variant"
          initial={variant.name}
          action="Rename"
          onSave={async (name) => {
            await api.rename(variant.id, name);
          }}
          onClose={() => {
            setDialog(null);
          }}
        />
      )}
      {dialog === 'shot' && (
        <ShotDialog
          onClose={() => {
            setDialog(null);
          }}
        />
      )}
    </>
  );
}
