import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { type PointerEvent, type ReactElement, type WheelEvent, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { formatSeconds } from '#core/units';
import type { ShotFields } from '#core/shot';
import type { CacheState } from '#protocol';
import { Icon, useColours } from '#web/ui';
import type { Playback } from './playback';
import { type StripFrame, drawStrip, layoutStrip } from './strip-drawing';

interface FrameStripProps {
  readonly fields: ShotFields;
  /** Of the run that is shown; null: none is. */
  readonly range: { readonly firstFrame: number; readonly lastFrame: number; readonly preRoll: number } | null;
  readonly frames: readonly StripFrame[];
  readonly frame: number | null;
  readonly state: CacheState;
  readonly playback: Playback;
  readonly predicted: ReadonlyMap<number, number>;
  readonly notches: ReadonlySet<number>;
  readonly goTo: (frame: number | null) => void;
}

/** One cell a frame: seconds, substeps, state. Scrubs; the wheel zooms. */
export function FrameStrip({ fields, range, frames, frame, state, playback, predicted, notches, goTo }: FrameStripProps): ReactElement {
  const c = useColours();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 800, height: 110 });
  const [hover, setHover] = useState<number | null>(null);
  const [zoom, setZoom] = useState({ from: 0, to: 1 });
  const { firstFrame, lastFrame, preRoll } = range ?? fields;
  const first = firstFrame - preRoll;
  const count = lastFrame - first + 1;
  const shownFirst = first + Math.floor(zoom.from * count);
  const shownLast = Math.max(shownFirst, first + Math.ceil(zoom.to * count) - 1);

  useEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      const [width, height] = [element.clientWidth, element.clientHeight];
      // Nothing of it is seen: what it shows stays for when it is seen again.
      if (width > 0 && height > 0) setSize({ width, height });
    });
    observer.observe(element);
    return () => {
      observer.disconnect();
    };
  }, []);

  const layout = useMemo(() => layoutStrip(shownFirst, shownLast, size.width), [shownFirst, shownLast, size.width]);
  useLayoutEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const ratio = window.devicePixelRatio;
    const [width, height] = [Math.round(size.width * ratio), Math.round(size.height * ratio)];
    // Only when it is another: setting it empties the canvas.
    if (element.width !== width) element.width = width;
    if (element.height !== height) element.height = height;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    drawStrip(context, { ...size, layout, frames, frame, firstFrame, state, predicted, notches, colours: c });
  }, [size, layout, frames, frame, firstFrame, state, predicted, notches, c]);

  const at = (event: PointerEvent): number => {
    const box = event.currentTarget.getBoundingClientRect();
    return layout.frameAt(event.clientX - box.left);
  };
  /** The nearest frame that can be looked at. */
  const scrub = (wanted: number): void => {
    const stored = frames.filter((f) => f.stored);
    const nearest = stored.reduce<StripFrame | null>(
      (best, f) => (best === null || Math.abs(f.frame - wanted) < Math.abs(best.frame - wanted) ? f : best),
      null,
    );
    if (nearest) goTo(nearest.frame);
  };
  const onWheel = (event: WheelEvent): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const part = (event.clientX - box.left) / size.width;
    const factor = event.deltaY < 0 ? 0.8 : 1.25;
    // From what it will be: a wheel turns several times between two pictures.
    setZoom(({ from, to }) => {
      const p = from + part * (to - from);
      const width = Math.min(1, Math.max(8 / count, (to - from) * factor));
      const start = Math.min(1 - width, Math.max(0, p - part * width));
      return { from: start, to: start + width };
    });
  };
  const hovered = hover === null ? null : (frames.find((f) => f.frame === hover) ?? null);
  const button = (name: string, icon: 'first' | 'previous' | 'play' | 'pause' | 'next' | 'last', onClick: () => void): ReactElement => (
    <IconButton size="small" aria-label={name} title={name} onClick={onClick} sx={{ p: 0.25, color: c.text }}>
      <Icon name={icon} size={15} />
    </IconButton>
  );
  return (
    <Box
      sx={{
        borderTop: `1px solid ${c.line}`,
        bgcolor: c.panel,
        display: 'grid',
        gridTemplateColumns: '116px minmax(0, 1fr)',
        minHeight: 0,
      }}
    >
      <Box sx={{ p: 1.25, borderRight: `1px solid ${c.line}`, display: 'flex', flexDirection: 'column', gap: 0.5 }}>
        <Box className="mono" sx={{ fontSize: 19, lineHeight: 1.1, fontWeight: 600, whiteSpace: 'nowrap' }} data-testid="frame-number">
          {frame ?? '–'} <span style={{ fontSize: 12, color: c.dim }}>of {lastFrame}</span>
        </Box>
        <Box sx={{ display: 'flex', ml: -0.5 }}>
          {button('First frame', 'first', playback.first)}
          {button('One frame back (,)', 'previous', () => {
            playback.step(-1);
          })}
          {button(playback.playing ? 'Stop (Space)' : 'Play (Space)', playback.playing ? 'pause' : 'play', playback.toggle)}
          {button('One frame on (.)', 'next', () => {
            playback.step(1);
          })}
          {button('Last frame', 'last', playback.last)}
        </Box>
        <span className="mono" style={{ color: c.dim, fontSize: 11.5 }}>
          {fields.framesPerSecond} fps
        </span>
        <span className="mono" style={{ color: c.dim, fontSize: 11, whiteSpace: 'nowrap' }}>
          {hovered
            ? `${String(hovered.frame)}: ${formatSeconds(hovered.report.totalSeconds)}`
            : hover !== null && predicted.has(hover)
              ? `${String(hover)}: ~${formatSeconds(predicted.get(hover) ?? 0)}`
              : ''}
        </span>
      </Box>
      <Box sx={{ position: 'relative', minWidth: 0, minHeight: 0, overflow: 'hidden' }}>
        <canvas
          ref={canvas}
          tabIndex={0}
          role="slider"
          aria-label="Frame strip"
          aria-valuemin={firstFrame}
          aria-valuemax={lastFrame}
          aria-valuenow={frame ?? firstFrame}
          data-testid="frame-strip"
          style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', cursor: 'col-resize', touchAction: 'none' }}
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            scrub(at(e));
          }}
          onPointerMove={(e) => {
            setHover(at(e));
            if (e.buttons & 1) scrub(at(e));
          }}
          onPointerLeave={() => setHover(null)}
          onWheel={onWheel}
          onKeyDown={(e) => {
            if (e.key === 'ArrowLeft') playback.step(-1);
            else if (e.key === 'ArrowRight') playback.step(1);
            else if (e.key === 'Home') playback.first();
            else if (e.key === 'End') playback.last();
            else return;
            e.preventDefault();
          }}
        />
      </Box>
    </Box>
  );
}
