import Box from '@mui/material/Box';
import InputBase from '@mui/material/InputBase';
import { type KeyboardEvent, type ReactElement, useEffect, useRef, useState } from 'react';
import { type Unit, UNITS, formatQuantity, parseQuantity } from '#core/units';
import { useColours } from './use-colours';

interface NumberFieldProps {
  readonly label: string;
  readonly value: number;
  readonly unit: Unit;
  readonly min?: number | undefined;
  readonly max?: number | undefined;
  readonly step?: number | undefined;
  /** Steps multiply. */
  readonly ratio?: boolean | undefined;
  readonly integer?: boolean | undefined;
  readonly changed?: boolean;
  /** `fill`: its share of the row. */
  readonly width?: number | 'fill';
  readonly onChange: (value: number) => void;
}

/**
 * A number with its unit: typed (`12cm`, `1/24`), stepped with the arrow keys (Shift: ten times), or dragged sideways on the field. Escape
 * takes back; what is not valid is said under it and changes nothing.
 */
export function NumberField(props: NumberFieldProps): ReactElement {
  const { label, value, unit, min, max, step = 1, ratio = false, integer = false, changed = false, width = 96, onChange } = props;
  const c = useColours();
  const [text, setText] = useState<string | null>(null);
  const [error, setError] = useState<string | null>(null);
  const drag = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  const input = useRef<HTMLInputElement>(null);
  /** Set while Escape takes the hand off: what was typed is not taken over then. */
  const takenBack = useRef(false);

  useEffect(() => {
    setText(null);
    setError(null);
  }, [value]);

  // The field shows a rounded number: untouched, it changes nothing.
  const touched = text !== null && text !== formatQuantity(value, unit);

  const limits = (v: number): string | null => {
    const show = (n: number): string => formatQuantity(n, unit);
    if (min !== undefined && v < min - 1e-12) return `at least ${show(min)}`;
    if (max !== undefined && v > max + 1e-12) return `at most ${show(max)}`;
    if (integer && !Number.isInteger(v)) return 'a whole number';
    return null;
  };
  const commit = (typed: string): void => {
    const parsed = parseQuantity(typed, unit);
    const wrong = parsed.ok ? limits(parsed.value) : parsed.message;
    if (wrong !== null) {
      setError(wrong);
      return;
    }
    setError(null);
    setText(null);
    if (parsed.ok && parsed.value !== value) onChange(parsed.value);
  };
  const stepped = (from: number, count: number): number => {
    const raw = ratio ? from * step ** count : from + step * count;
    const clamped = Math.min(max ?? Infinity, Math.max(min ?? -Infinity, raw));
    return integer ? Math.round(clamped) : Number(clamped.toPrecision(4));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const count = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (count !== undefined) {
      event.preventDefault();
      onChange(stepped(value, count * (event.shiftKey ? 10 : 1)));
    } else if (event.key === 'Enter') {
      // It takes over what is typed; it sends no form around it.
      event.preventDefault();
      if (touched) commit(text);
    } else if (event.key === 'Escape') {
      takenBack.current = true;
      input.current?.blur();
      takenBack.current = false;
      setText(null);
      setError(null);
    }
    event.stopPropagation();
  };
  return (
    <Box
      sx={{
        display: 'inline-flex',
        flexDirection: 'column',
        alignItems: 'flex-end',
        ...(width === 'fill' ? { flex: 1, minWidth: 0 } : {}),
      }}
    >
      <InputBase
        inputRef={input}
        value={text ?? formatQuantity(value, unit)}
        error={error !== null}
        onChange={(e) => setText(e.target.value)}
        onFocus={(e) => {
          setText(formatQuantity(value, unit));
          e.target.select();
        }}
        onBlur={() => {
          if (takenBack.current) return;
          if (touched) commit(text);
          else if (error === null) setText(null);
        }}
        onKeyDown={onKeyDown}
        onPointerDown={(e) => {
          if (document.activeElement === input.current) return;
          drag.current = { x: e.clientX, from: value, moved: false };
          (e.currentTarget as HTMLElement).setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          const d = drag.current;
          if (!d) return;
          const count = Math.trunc((e.clientX - d.x) / 8);
          if (count !== 0 || d.moved) {
            d.moved = true;
            const next = stepped(d.from, count);
            if (next !== value) onChange(next);
          }
        }}
        onPointerUp={() => {
          if (drag.current && !drag.current.moved) input.current?.focus();
          else if (drag.current) input.current?.blur();
          drag.current = null;
        }}
        inputProps={{
          'aria-label': `${label}${UNITS[unit].symbol ? `, ${UNITS[unit].symbol}` : ''}`,
          className: 'mono',
          spellCheck: false,
        }}
        sx={{
          width: width === 'fill' ? '100%' : width,
          border: `1px solid ${error !== null ? c.failed : changed ? c.selected : c.line}`,
          borderRadius: 1,
          bgcolor: c.page,
          px: 0.75,
          '& input': { textAlign: 'right', p: '2px 0', fontSize: 12.5, cursor: 'ew-resize', '&:focus': { cursor: 'text' } },
        }}
      />
      {error !== null && (
        <span role="alert" style={{ color: c.failed, fontSize: 11 }}>
          {error}
        </span>
      )}
    </Box>
  );
}
