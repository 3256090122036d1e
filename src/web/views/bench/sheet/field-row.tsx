import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement, ReactNode } from 'react';
import type * as z from 'zod';
import { type FieldMeta, type Path, canonicalJson, settingAt, withSetting } from '#core/shot';
import { useSheet, useSolve } from '#web/state';
import { Explained, Icon, type IconName, useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { moveAt } from '../moves/moves';
import { defaultOf, movingField } from './field-values';
import { CLEAR_SLOT } from './sheet-layout';

/** A settings change at a path; what comes out is validated by the sheet. */
export function usePut(): (path: Path, next: unknown) => void {
  const edit = useSheet((s) => s.edit);
  return (path, next) => void edit((s) => withSetting(s, path, next));
}

/** A field of the settings: where it stands, and what its schema says about it. */
export interface FieldProps {
  readonly meta: FieldMeta;
  readonly schema: z.ZodType;
  readonly path: Path;
}

interface RowProps extends FieldProps {
  readonly children: ReactNode;
  /** Takes the value away. */
  readonly none?: ReactNode;
  readonly stacked?: boolean;
  /** Three values of it can be tried side by side. */
  readonly numeric?: boolean;
}

/** Title of a field, what can be done with it, and its control. */
export function FieldRow({ meta, schema, path, children, none = null, stacked = false, numeric = false }: RowProps): ReactElement {
  const { tryThree, makeMove } = useBench();
  const c = useColours();
  const change = usePut();
  const value = useSheet((s) => settingAt(s.settings, path));
  const moving = meta.moves === true && value !== null ? movingField(meta, path, value) : null;
  const moves = useSolve((s) => moving?.paths.some((p) => moveAt(s, moving.item, p) !== null) ?? false);
  const initial = defaultOf(schema, path);
  const isDefault = initial === undefined || canonicalJson(initial) === canonicalJson(value);
  return (
    <Box
      sx={{
        display: 'flex',
        flexDirection: stacked ? 'column' : 'row',
        alignItems: stacked ? 'stretch' : 'center',
        gap: stacked ? 0.4 : 1,
        py: 0.4,
        minHeight: 30,
        '& .on-hover': { opacity: 0 },
        '&:hover .on-hover, & .on-hover:focus-visible': { opacity: 1 },
      }}
    >
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', alignItems: 'center', gap: 0.25 }}>
        <Explained title={meta.title} help={meta.help} />
        {!isDefault && (
          <SmallIcon
            title="Back to the default"
            label={`${meta.title}: back to the default`}
            icon="reset"
            size={12}
            onClick={() => change(path, initial)}
          />
        )}
        {moving && (
          <SmallIcon
            title={moves ? 'Animated: open its curve' : 'Animate: keys or an expression'}
            label={`${meta.title}: ${moves ? 'its curve' : 'make it move'}`}
            icon="curve"
            size={14}
            colour={moves ? c.selected : c.dim}
            onHover={!moves}
            onClick={() => makeMove(moving)}
          />
        )}
        {numeric && (
          <SmallIcon
            title="Try three values, side by side"
            label={`${meta.title}: try three values`}
            icon="three"
            size={13}
            onHover
            onClick={() => tryThree(path)}
          />
        )}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        {children}
        <Box sx={{ width: CLEAR_SLOT, flex: 'none', display: 'flex', justifyContent: 'center' }}>{none}</Box>
      </Box>
    </Box>
  );
}

interface SmallIconProps {
  readonly title: string;
  readonly label: string;
  readonly icon: IconName;
  readonly size: number;
  readonly colour?: string;
  /** Seen only while the pointer is on its row, or the keyboard on it. */
  readonly onHover?: boolean;
  readonly onClick: () => void;
}

export function SmallIcon({ title, label, icon, size, colour, onHover = false, onClick }: SmallIconProps): ReactElement {
  const c = useColours();
  return (
    <Tooltip title={title}>
      <IconButton
        className={onHover ? 'on-hover' : ''}
        size="small"
        aria-label={label}
        onClick={onClick}
        sx={{ p: 0.25, color: colour ?? c.dim }}
      >
        <Icon name={icon} size={size} />
      </IconButton>
    </Tooltip>
  );
}
