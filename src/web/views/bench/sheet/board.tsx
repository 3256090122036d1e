import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { type ReactElement, useDeferredValue, useMemo } from 'react';
import { GROUPS, type Group, SOLVE } from '#core/shot';
import { navigate, useEdits, useRoute, useSheet, useSolveBase, useSolve } from '#web/state';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { StaleNote } from '../passes/stale-note';
import { changeShort, changeText } from '../runs/change-text';
import { GroupSheet } from './group-sheet';
import { keyValue } from './key-value';

const NAMES = Object.keys(GROUPS) as Group[];

/** What each group's edits do to the predicted cost: the sheet against the sheet with that group as it was. */
function useGroupCosts(): Readonly<Partial<Record<Group, { readonly short: string | null; readonly long: string }>>> {
  const { predictor, predicted } = useBench();
  const settings = useDeferredValue(useSolve());
  const base = useSolveBase();
  const edits = useEdits();
  return useMemo(() => {
    const costs: Partial<Record<Group, { short: string | null; long: string }>> = {};
    for (const group of NAMES) {
      if (!edits.some((e) => e.path.startsWith(group))) continue;
      const without = predictor.of({ ...settings, [group]: base[group] }, 'final');
      if (without && predicted.final)
        costs[group] = { short: changeShort(without, predicted.final), long: changeText(without, predicted.final) };
    }
    return costs;
  }, [predictor, predicted.final, settings, base, edits]);
}

/** The board of nine, and the open group's sheet under it. */
export function Board(): ReactElement {
  const c = useColours();
  const { findings } = useBench();
  const route = useRoute();
  const settings = useSolve();
  const fields = useSheet((s) => s.fields);
  const edits = useEdits();
  const costs = useGroupCosts();
  const open = NAMES.find((n) => n === route.group) ?? 'detail';
  return (
    <Box sx={{ borderRight: `1px solid ${c.line}`, bgcolor: c.panel, display: 'flex', flexDirection: 'column', minHeight: 0 }}>
      <Box
        role="tablist"
        aria-label="Groups of settings"
        sx={{ display: 'grid', gridTemplateColumns: 'repeat(3, 1fr)', gap: 0.75, p: 1.5 }}
      >
        {NAMES.map((name) => {
          const selected = name === open;
          const changed = edits.filter((e) => e.path.startsWith(name)).length;
          const cost = costs[name];
          const warns = findings.some((f) => f.group === name && f.severity === 'warning');
          return (
            <ButtonBase
              key={name}
              role="tab"
              aria-selected={selected}
              title={cost ? `This change: ${cost.long}` : GROUPS[name].question}
              onClick={() => navigate({ group: name === 'detail' ? null : name }, { replace: true })}
              sx={{
                flexDirection: 'column',
                alignItems: 'flex-start',
                px: 1.1,
                py: 0.7,
                borderRadius: 1.5,
                minWidth: 0,
                overflow: 'hidden',
                position: 'relative',
                border: `1px solid ${selected ? c.selected : c.line}`,
                bgcolor: selected ? c.raised : 'transparent',
                '&:hover': { borderColor: selected ? c.selected : c.dim },
              }}
            >
              <span style={{ fontWeight: 600 }}>{GROUPS[name].title}</span>
              {warns && (
                <svg
                  width={10}
                  height={10}
                  viewBox="0 0 12 12"
                  role="img"
                  aria-label="has findings"
                  style={{ position: 'absolute', right: 7, top: 8 }}
                >
                  <path d="M6 1l5.5 10h-11z" fill={c.warning} />
                </svg>
              )}
              <span
                className="mono"
                style={{
                  fontSize: 11.5,
                  color: changed > 0 ? c.warning : c.dim,
                  whiteSpace: 'nowrap',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  maxWidth: '100%',
                }}
              >
                {cost?.short ?? `${keyValue(name, settings, fields)}${changed > 0 ? ' *' : ''}`}
              </span>
            </ButtonBase>
          );
        })}
      </Box>
      <GroupSheet key={open} group={open} />
      <StaleNote pass={SOLVE} />
    </Box>
  );
}
