import { isSolveKind } from '#core/shot';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import visuallyHidden from '@mui/utils/visuallyHidden';
import { type ReactElement, type ReactNode } from 'react';
import { type Range, notMeasured } from '#core/cost';
import { SKETCH_FRAMES, definitionOf } from '#core/passes';
import { formatBytes, formatRange, formatSeconds } from '#core/units';
import { useCommands } from '#web/commands';
import { useMainSketch, usePassSketch, useRoute, useSheet } from '#web/state';
import { Gauge, Icon, useColours } from '#web/ui';
import { useBench } from './bench-context';
import { clockTime, useMinute } from './runs/clock';
import { RecordButton } from './costs/record-dialog';
import { useInputCosts } from './passes/use-input-costs';
import { useSketchToggle } from './passes/use-sketch-pass';
import { useStarter } from './runs/start-run';
import { VariantMenu } from './runs/variant-menu';

const span = (r: Range, show: (v: number) => string): string => formatRange(r.low, r.high, show);

export function BenchHeader({ findingsOpen, onFindings }: { findingsOpen: boolean; onFindings: () => void }): ReactElement {
  const c = useColours();
  const { shot, predicted, spent, findings, passFindings, passes, pass } = useBench();
  const { undo, redo, stepBack, stepForward, fields } = useSheet();
  const sketch = useMainSketch();
  const starter = useStarter();
  useMinute();
  const { press } = starter;
  const { on: sketching, toggle: toggleSketch } = useSketchToggle(useRoute().frame);
  const passSketch = usePassSketch();
  /** A kind whose Sketch is a single frame. */
  const tries = pass !== null && !isSolveKind(pass.kind) && definitionOf(pass.kind).sketch?.frames === 1;
  const sketchable = pass === null || isSolveKind(pass.kind) || definitionOf(pass.kind).sketch !== undefined;
  useCommands([
    { id: 'sketch', title: 'Start or end the Sketch', keys: 'Shift+s', run: toggleSketch },
    { id: 'test', title: 'Start the Test', keys: 'Shift+t', run: () => press('test') },
    { id: 'final', title: 'Start the Final', keys: 'Shift+f', run: () => press('final') },
    { id: 'undo', title: 'Undo the last edit', keys: 'Ctrl+z', run: stepBack },
    { id: 'redo', title: 'Redo', keys: 'Ctrl+Shift+z', run: stepForward },
    { id: 'findings', title: 'Show or hide the findings', keys: 'Shift+n', run: onFindings },
  ]);

  const { budgets } = fields;
  const promised = (amount: number, show: (v: number) => string): string =>
    amount > 0 ? `, of it ${show(amount)} by runs that are not over` : '';
  const before = useInputCosts(pass);
  const p = predicted.final;
  // The gauges show the sum of all passes that are on.
  const more = passes.filter((x) => x.enabled).map((x) => x.final);
  const moreSeconds = more.reduce((n, x) => n + (x?.seconds ?? 0), 0);
  const moreBytes = more.reduce((n, x) => n + (x?.bytes ?? 0), 0);
  const mostMemory = Math.max(p?.memory.likely ?? 0, ...more.map((x) => x?.memoryBytes ?? 0));
  const secondsOf = (rung: 'test' | 'final'): number | null =>
    pass ? (pass[rung]?.seconds ?? null) : (predicted[rung]?.time?.likely ?? null);
  const likely = { test: secondsOf('test'), final: secondsOf('final') };
  const basis = p ? `Predicted from ${p.from}.${notMeasured(p)}` : 'Nothing is predicted yet.';
  const inPasses = passFindings.reduce((n, p) => n + p.findings.length, 0);
  const found = findings.length + inPasses;
  const warnings = findings.filter((f) => f.severity === 'warning').length + inPasses;
  const last = undo[undo.length - 1];
  const next = redo[redo.length - 1];
  return (
    <Box
      component="header"
      sx={{ display: 'flex', alignItems: 'center', gap: 1.5, px: 1.5, borderBottom: `1px solid ${c.line}`, bgcolor: c.panel, minWidth: 0 }}
    >
      <Box sx={{ width: 168, flexShrink: 0, '@media (max-width: 1160px)': { width: 128 } }}>
        <Box
          component="h1"
          sx={{ m: 0, fontSize: 15, fontWeight: 650, lineHeight: 1.2, whiteSpace: 'nowrap', overflow: 'hidden', textOverflow: 'ellipsis' }}
        >
          {fields.name}
        </Box>
        <VariantMenu />
      </Box>
      <Box sx={{ display: 'flex', flexShrink: 0, mx: -0.5 }}>
        <Tooltip disableInteractive title={last ? `Undo: ${last.title} (Ctrl+Z)` : 'Nothing to undo'}>
          <span>
            <IconButton size="small" aria-label="Undo" disabled={!last} onClick={stepBack} sx={{ p: 0.5 }}>
              <Icon name="undo" size={16} />
            </IconButton>
          </span>
        </Tooltip>
        <Tooltip disableInteractive title={next ? `Redo: ${next.title} (Ctrl+Shift+Z)` : 'Nothing to redo'}>
          <span>
            <IconButton size="small" aria-label="Redo" disabled={!next} onClick={stepForward} sx={{ p: 0.5 }}>
              <Icon name="redo" size={16} />
            </IconButton>
          </span>
        </Tooltip>
      </Box>
      <Gauge
        title="Time"
        spent={spent.seconds}
        predicted={p?.time ? p.time.likely + moreSeconds : null}
        budget={budgets.time}
        show={formatSeconds}
        help={`Computing time of this shot: ${formatSeconds(spent.seconds)} spent${promised(spent.ahead.seconds, formatSeconds)}${
          p?.time
            ? `; a Final of the sheet adds ${formatSeconds(p.time.likely)} (${span(p.time, formatSeconds)})${moreSeconds > 0 ? `, its passes ${formatSeconds(moreSeconds)}` : ''}`
            : ''
        }; budget ${formatSeconds(budgets.time)}.\n${basis}`}
      />
      <Gauge
        title="Disk"
        spent={spent.bytes}
        predicted={p ? p.disk.likely + moreBytes : null}
        budget={budgets.disk}
        show={formatBytes}
        help={`Disk of this shot's caches: ${formatBytes(spent.bytes)} taken${promised(spent.ahead.bytes, formatBytes)}${
          p
            ? `; a Final adds ${formatBytes(p.disk.likely)} (${span(p.disk, formatBytes)})${moreBytes > 0 ? `, its passes ${formatBytes(moreBytes)}` : ''}`
            : ''
        }; budget ${formatBytes(budgets.disk)}. Freed caches do not count.\n${basis}`}
      />
      <Gauge
        title="Memory"
        spent={0}
        predicted={p ? mostMemory : null}
        budget={budgets.memory}
        show={formatBytes}
        help={`Memory that a Final of the sheet takes${p ? `: ${formatBytes(p.memory.likely)} (${span(p.memory, formatBytes)})` : ''}; budget ${formatBytes(budgets.memory)}.\n${basis}`}
      />
      <RecordButton slug={shot.slug} />
      <Box sx={{ flex: 1 }} />
      <Tooltip disableInteractive title="What the checks found (Shift+N); [ and ] jump between them">
        <Button
          color="inherit"
          aria-pressed={findingsOpen}
          onClick={onFindings}
          sx={{
            flexShrink: 0,
            borderRadius: 4,
            px: 1.25,
            height: 28,
            minWidth: 0,
            border: `1px solid ${warnings > 0 ? c.warning : c.line}`,
            color: warnings > 0 ? c.warning : c.dim,
            bgcolor: findingsOpen ? c.raised : 'transparent',
          }}
        >
          {warnings > 0 ? '▲ ' : ''}
          {found}
          <Box component="span" sx={{ ml: 0.5, '@media (max-width: 1160px)': visuallyHidden }}>
            {found === 1 ? 'finding' : 'findings'}
          </Box>
        </Button>
      </Tooltip>
      <RungButton
        title={tries ? 'Try' : 'Sketch'}
        line={
          pass
            ? passSketch.computing
              ? `${String(passSketch.done)} frames`
              : sketching
                ? 'shown'
                : tries
                  ? 'this frame'
                  : `${String(SKETCH_FRAMES)} frames`
            : sketching
              ? sketch.computing
                ? `${sketch.rate.toFixed(0)} steps/s`
                : 'shown'
              : 'live'
        }
        help={
          sketchable
            ? tries
              ? 'In the browser, the frame that is shown, and again with every change and at every other frame (Shift+S)'
              : pass
                ? `In the browser, ${String(SKETCH_FRAMES)} frames from the one that is shown on, and again with every change (Shift+S)`
                : 'In the browser, as fine as stays live, and again with every change (Shift+S)'
            : 'A pass of this kind has no Sketch: start its Test'
        }
        pressed={sketching}
        disabled={!sketchable || (pass !== null && pass.problem !== null)}
        onClick={toggleSketch}
      />
      <RungButton
        title="Test"
        line={likely.test === null ? null : formatSeconds(likely.test)}
        help={
          pass
            ? `${pass.name}, from the Test of what it reads, which is computed first when it is not there (Shift+T)`
            : 'On the server, twice as coarse as the settings say: for judging motion (Shift+T)'
        }
        disabled={starter.starting || (pass !== null && (pass.problem !== null || !pass.enabled))}
        onClick={() => press('test')}
      />
      <RungButton
        title="Final"
        primary
        line={likely.final === null ? null : formatSeconds(likely.final)}
        more={likely.final === null ? null : `done ${clockTime(likely.final + before.final.seconds)}`}
        help={
          pass
            ? `${pass.name}, from the Final of what it reads, which is computed first when it is not there (Shift+F)`
            : 'As fine as the settings say (Shift+F)'
        }
        disabled={starter.starting || (pass !== null && (pass.problem !== null || !pass.enabled))}
        onClick={() => press('final')}
      />
      {starter.dialog}
    </Box>
  );
}

interface RungButtonProps {
  readonly title: string;
  readonly line: string | null;
  /** Where there is room. */
  readonly more?: string | null;
  readonly help: string;
  readonly primary?: boolean;
  readonly pressed?: boolean;
  readonly disabled?: boolean;
  readonly onClick: () => void;
}

function RungButton({
  title,
  line,
  more = null,
  help,
  primary = false,
  pressed,
  disabled = false,
  onClick,
}: RungButtonProps): ReactElement {
  const c = useColours();
  const small: ReactNode = line !== null && (
    <span className="mono" style={{ fontWeight: 400, fontSize: 11, marginLeft: 8, opacity: primary ? 1 : 0.85 }}>
      {line}
      {more !== null && (
        <Box component="span" sx={{ '@media (max-width: 1160px)': { display: 'none' } }}>
          {' · '}
          {more}
        </Box>
      )}
    </span>
  );
  return (
    <Tooltip disableInteractive title={help}>
      <span style={{ flexShrink: 0 }}>
        <Button
          variant={primary ? 'contained' : 'outlined'}
          color={primary ? 'primary' : 'inherit'}
          disabled={disabled}
          {...(pressed === undefined ? {} : { 'aria-pressed': pressed })}
          data-rung={title}
          onClick={onClick}
          sx={{
            px: 1.25,
            height: 34,
            minWidth: 0,
            whiteSpace: 'nowrap',
            ...(primary ? {} : { borderColor: pressed ? c.selected : c.line, color: pressed ? c.selected : 'inherit', bgcolor: c.raised }),
          }}
        >
          {title}
          {small}
        </Button>
      </span>
    </Tooltip>
  );
}
