import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import Switch from '@mui/material/Switch';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { type ReactElement, useEffect, useMemo, useRef, useState } from 'react';
import { FUNCTIONS, type Key, type Move, type Onward, VARIABLES, parseExpression, valueOfKeys, valueOfMove } from '#core/moves';
import { solveKindOf, schemaOfSolve, type Path, type SolveSettings, followedBy, metaAt } from '#core/shot';
import { type Unit, formatQuantity } from '#core/units';
import { useRoute, useSheet, useSolve } from '#web/state';
import { NumberField, useColours } from '#web/ui';
import { ExpressionField, numberPaths } from './expression-field';
import { changedKeys, movedKeys, withKey, withoutKeys } from './key-edits';
import { MoveCurve } from './move-curve';
import { type MovingField, moveAt, numberOf, withMove } from './moves';

const ONWARD: Readonly<Record<Onward, string>> = { smooth: 'Smooth', straight: 'Straight', hold: 'Holds' };

/** Makes a number move: keys on a curve, or an expression. Every change is an edit of the sheet; the curve shows what comes of it. */
export function MoveDialog({ field, onClose }: { field: MovingField; onClose: () => void }): ReactElement {
  const c = useColours();
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const settings = useSolve();
  // Of a vector first the part that moves already.
  const [path, setPath] = useState(() => field.paths.find((p) => moveAt(settings, field.item, p)) ?? field.paths[0] ?? '');
  const fields = useSheet((s) => s.fields);
  const edit = useSheet((s) => s.editSolve);
  const route = useRoute();
  const move = moveAt(settings, field.item, path);
  // While an expression is typed the curve follows the letters, the sheet a moment later.
  const [typed, setTyped] = useState<string | null>(null);
  const shown: Move | null = move?.kind === 'expression' && typed !== null ? { ...move, text: typed } : move;
  const value = numberOf(settings, field.item, path) ?? 0;
  /** What holds it stays when its keys or its text change. */
  const put = (next: Move | null): boolean =>
    edit((s) => withMove(s, field.item, path, next && move?.limits && !('limits' in next) ? { ...next, limits: move.limits } : next));
  const firstFrame = fields.firstFrame - fields.preRoll;
  const { followed } = followedBy(settings);
  const valueAt = (frame: number, keys: readonly Key[] | null): number => {
    if (keys) return heldWithin(valueOfKeys(keys, frame), move?.limits);
    if (!shown) return value;
    const time = (frame - fields.firstFrame) / fields.framesPerSecond;
    return valueOfMove(shown, value, { time, firstFrame: fields.firstFrame, framesPerSecond: fields.framesPerSecond }, followed);
  };
  const become = (kind: 'still' | 'keys' | 'expression'): void => {
    setPicked(new Set());
    setTyped(null);
    if (kind === 'still') put(null);
    else if (kind === 'keys') put({ kind: 'keys', keys: [{ frame: fields.firstFrame, value, then: 'smooth', arrive: null, leave: null }] });
    else put({ kind: 'expression', text: 'value' });
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-label={`${field.title}, over the shot`}>
      <DialogTitle sx={{ fontSize: 16, display: 'flex', alignItems: 'center', gap: 2, pb: 1 }}>
        <span>{field.title}, over the shot</span>
        <Box sx={{ flex: 1 }} />
        {field.paths.length > 1 && (
          <ToggleButtonGroup
            size="small"
            exclusive
            value={path}
            aria-label="Component"
            onChange={(_e, p: string | null) => {
              if (p === null) return;
              setPath(p);
              setTyped(null);
              setPicked(new Set());
            }}
          >
            {field.paths.map((p) => (
              <ToggleButton key={p} value={p} sx={{ px: 1.5, py: 0.25, textTransform: 'none' }}>
                {p.slice(-1)}
                {moveAt(settings, field.item, p) ? ' ~' : ''}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        )}
        <ToggleButtonGroup
          size="small"
          exclusive
          value={move?.kind ?? 'still'}
          aria-label="How it moves"
          onChange={(_e, kind: 'still' | 'keys' | 'expression' | null) => {
            if (kind !== null) become(kind);
          }}
        >
          {(['still', 'keys', 'expression'] as const).map((kind) => (
            <ToggleButton key={kind} value={kind} sx={{ px: 1.5, py: 0.25, textTransform: 'none' }}>
              {{ still: 'Still', keys: 'Keys', expression: 'Expression' }[kind]}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
      </DialogTitle>
      <DialogContent sx={{ pb: 0 }}>
        <MoveCurve
          title={field.title}
          unit={field.unit}
          frames={[firstFrame, fields.lastFrame]}
          valueAt={valueAt}
          keys={move?.kind === 'keys' ? move.keys : null}
          picked={picked}
          now={route.frame}
          onPick={setPicked}
          onKeys={(keys) => put({ kind: 'keys', keys })}
        />
        <Box sx={{ minHeight: 150, pt: 1.5 }}>
          {!move && <Box sx={{ color: c.dim }}>It stays as it is on the sheet. Keys draw a curve by hand; an expression computes it.</Box>}
          {move?.kind === 'keys' && (
            <KeyRow
              keys={move.keys}
              picked={picked}
              unit={field.unit}
              onPick={setPicked}
              onKeys={(keys) => put({ kind: 'keys', keys })}
              frame={route.frame ?? fields.firstFrame}
            />
          )}
          {move?.kind === 'expression' && (
            <ExpressionRow
              key={path}
              text={move.text}
              onTyped={setTyped}
              check={(text) => mistakeIn(settings, field.item, path, text)}
              onText={(text) => {
                put({ kind: 'expression', text });
                setTyped(null);
              }}
            />
          )}
          {move && (
            <HoldRow
              limits={move.limits}
              range={rangeOf(field.item, path)}
              unit={field.unit}
              onChange={(limits) => put({ ...move, limits })}
            />
          )}
        </Box>
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={onClose}>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  );
}

type Limits = NonNullable<Move['limits']>;

const heldWithin = (value: number, limits: Move['limits']): number => (limits ? Math.min(limits[1], Math.max(limits[0], value)) : value);

/** Least and largest number that may stand at a path; a run refuses what goes beyond. */
function rangeOf(item: Path, path: string): Limits {
  const at = item.map((p) => (typeof p === 'number' ? `[${String(p)}]` : p)).join('');
  const meta = metaAt(`${at}.${path.replace(/\.[xyz]$/, '')}`);
  return [meta?.min ?? -1e6, meta?.max ?? 1e6];
}

/** Holds what comes of keys or an expression between two values. */
function HoldRow({
  limits,
  range,
  unit,
  onChange,
}: {
  limits: Move['limits'];
  range: Limits;
  unit: Unit;
  onChange: (limits: Limits | undefined) => void;
}): ReactElement {
  const c = useColours();
  const field = (label: string, n: 0 | 1): ReactElement => (
    <NumberField
      label={label}
      value={limits?.[n] ?? range[n]}
      unit={unit}
      min={n === 0 ? range[0] : limits?.[0]}
      max={n === 1 ? range[1] : limits?.[1]}
      width={110}
      onChange={(v) => onChange(n === 0 ? [v, limits?.[1] ?? range[1]] : [limits?.[0] ?? range[0], v])}
    />
  );
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 1, minHeight: 30 }}>
      <FormControlLabel
        control={
          <Switch size="small" checked={limits !== undefined} onChange={(e) => onChange(e.target.checked ? [...range] : undefined)} />
        }
        label="Hold between"
        sx={{ ml: '-4px', mr: 0, '& .MuiFormControlLabel-label': { fontSize: 13 } }}
      />
      {limits ? (
        <>
          {field('Lowest value', 0)} and {field('Highest value', 1)}
        </>
      ) : (
        <span style={{ color: c.dim, fontSize: 12.5 }}>
          Without it a run is refused where the number leaves {formatQuantity(range[0], unit)} to {formatQuantity(range[1], unit)}.
        </span>
      )}
    </Box>
  );
}

/** What is wrong with an expression at its place; null when nothing is. */
function mistakeIn(settings: SolveSettings, item: Path, path: string, text: string): string | null {
  const parsed = parseExpression(text);
  if (!parsed.ok) return `Column ${String(parsed.column)}: ${parsed.message}.`;
  const result = schemaOfSolve(solveKindOf(settings)).safeParse(withMove(settings, item, path, { kind: 'expression', text }));
  const message = result.error?.issues[0]?.message;
  return message === undefined ? null : `${message.charAt(0).toUpperCase()}${message.slice(1)}.`;
}

/** Typing rests this long before it becomes an edit: one to undo, not one a letter. */
const SETTLED = 500;

interface ExpressionRowProps {
  readonly text: string;
  readonly check: (text: string) => string | null;
  /** Every text that can be read, for the picture. */
  readonly onTyped: (text: string) => void;
  readonly onText: (text: string) => void;
}

function ExpressionRow({ text, check, onTyped, onText }: ExpressionRowProps): ReactElement {
  const c = useColours();
  const settings = useSolve();
  const paths = useMemo(() => numberPaths(settings), [settings]);
  const [typed, setTyped] = useState(text);
  const pending = useRef<{ readonly timer: ReturnType<typeof setTimeout>; readonly commit: () => void } | null>(null);
  const settle = (): void => {
    if (!pending.current) return;
    clearTimeout(pending.current.timer);
    pending.current.commit();
    pending.current = null;
  };
  // What was typed here comes back as the sheet's text: only what others changed (an undo) is taken over.
  const sent = useRef(text);
  useEffect(() => {
    if (text !== sent.current) setTyped(text);
    sent.current = text;
  }, [text]);
  // Closing keeps what was typed.
  useEffect(() => settle, []);
  const change = (next: string): void => {
    if (next === typed) return;
    setTyped(next);
    if (pending.current) clearTimeout(pending.current.timer);
    pending.current = null;
    if (check(next) !== null) return;
    onTyped(next);
    const commit = (): void => {
      sent.current = next;
      if (next !== text) onText(next);
    };
    pending.current = { timer: setTimeout(settle, SETTLED), commit };
  };
  const mistake = check(typed);
  return (
    <>
      <ExpressionField label="Expression over time" value={typed} mistake={mistake} paths={paths} onChange={change} onBlur={settle} />
      <Box role={mistake === null ? undefined : 'alert'} sx={{ color: mistake === null ? c.dim : c.failed, fontSize: 12, mt: 0.5 }}>
        {mistake ?? 'The curve shows what comes of it.'}
      </Box>
      <Box className="mono" sx={{ color: c.dim, fontSize: 11.5, mt: 0.5 }}>
        {VARIABLES.join(' ')} · + - * / ^ &lt; &gt; == · {Object.keys(FUNCTIONS).join(' ')} · another setting: sources[0].heat, matter.lift
      </Box>
    </>
  );
}

interface KeyRowProps {
  readonly keys: readonly Key[];
  readonly picked: ReadonlySet<number>;
  readonly unit: Unit;
  readonly frame: number;
  readonly onPick: (picked: ReadonlySet<number>) => void;
  readonly onKeys: (keys: readonly Key[]) => void;
}

/** Numbers of the picked key, and what to do with all that are picked. */
function KeyRow({ keys, picked, unit, frame, onPick, onKeys }: KeyRowProps): ReactElement {
  const c = useColours();
  const [index] = [...picked];
  const key = picked.size > 0 && index !== undefined ? keys[index] : undefined;
  const pin = (): void => {
    const added = withKey(keys, frame, valueOfKeys(keys, frame));
    onPick(new Set([added.index]));
    onKeys(added.keys);
  };
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, flexWrap: 'wrap' }}>
      {key ? (
        <>
          <label>
            Frame{' '}
            <NumberField
              label="Frame of the key"
              value={key.frame}
              unit="none"
              integer
              width={72}
              onChange={(v) => {
                const next = movedKeys(keys, picked, v - key.frame, 0);
                onPick(next.picked);
                onKeys(next.keys);
              }}
            />
          </label>
          <label>
            Value{' '}
            <NumberField
              label="Value of the key"
              value={key.value}
              unit={unit}
              width={110}
              onChange={(v) => onKeys(movedKeys(keys, picked, 0, v - key.value).keys)}
            />
          </label>
          <label>
            Then{' '}
            <Select
              size="small"
              value={key.then}
              inputProps={{ 'aria-label': 'How the curve goes on' }}
              onChange={(e) => onKeys(changedKeys(keys, picked, { then: e.target.value }))}
            >
              {Object.entries(ONWARD).map(([k, title]) => (
                <MenuItem key={k} value={k}>
                  {title}
                </MenuItem>
              ))}
            </Select>
          </label>
          <Button
            size="small"
            color="inherit"
            disabled={[...picked].every((n) => keys[n]?.arrive === null && keys[n].leave === null)}
            onClick={() => onKeys(changedKeys(keys, picked, { arrive: null, leave: null }))}
          >
            Slopes by itself
          </Button>
          <Button
            size="small"
            color="inherit"
            disabled={keys.length <= picked.size}
            onClick={() => {
              onPick(new Set());
              onKeys(withoutKeys(keys, picked));
            }}
          >
            Take {picked.size > 1 ? `${String(picked.size)} keys` : 'the key'} out
          </Button>
        </>
      ) : (
        <span style={{ color: c.dim }}>
          Double-click adds a key, a drawn box picks several; drag them, or use the arrow keys and Delete.
        </span>
      )}
      <Button size="small" color="inherit" onClick={pin}>
        Key at frame {frame}
      </Button>
    </Box>
  );
}
