import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import { type SurfaceReport, definitionOf } from '#core/passes';
import type { PassFigure } from '#core/pass';
import { UNITS } from '#core/units';
import type { ShownMesh } from '#web/viewport';
import { useColours } from '#web/ui';
import { useBench } from '../bench-context';
import { LinkedViewports, type Side } from '../compare/linked-viewports';
import { useYard } from '../view/scene';
import { type HeldSkin, useHeldSkin } from './held-skin';

const SHOWN = ['outside', 'volume', 'thin', 'roughness', 'triangles', 'crumbs'];

const valueOf = (figure: PassFigure<SurfaceReport>, report: SurfaceReport): string => {
  const v = figure.of(report);
  if (v === null) return '–';
  const unit = figure.unit === 'percent' ? '%' : UNITS[figure.unit].symbol;
  return `${String(Number(v.toPrecision(3)))} ${unit}`.trim();
};

/** The held skin and the one of the stack as it is now, from one camera, with the figures of both. */
export function TwoSkins({
  held,
  now,
  report,
  frame,
  shownOf,
  moving,
}: {
  held: HeldSkin;
  now: ShownMesh | null;
  report: SurfaceReport | null;
  frame: number | null;
  shownOf: (skin: HeldSkin['skin']) => ShownMesh;
  moving: boolean;
}): ReactElement {
  const c = useColours();
  const { shot } = useBench();
  const { wipe } = useHeldSkin();
  const scene = useYard(frame, null, null);
  const sides: Side[] = [
    { id: 'held', title: 'Held', detail: `frame ${String(held.frame)}`, scene, frame: null, mesh: shownOf(held.skin), empty: null },
    {
      id: 'now',
      title: 'Now',
      detail: frame === null ? '' : `frame ${String(frame)}`,
      scene,
      frame: null,
      mesh: now,
      empty: now ? null : 'No skin yet',
    },
  ];
  const figures = definitionOf('surface').figures.filter((f) => SHOWN.includes(f.id)) as unknown as readonly PassFigure<SurfaceReport>[];
  return (
    <Box
      sx={{ position: 'absolute', inset: '66px 0 0 0', display: 'grid', gridTemplateRows: 'minmax(0, 1fr) auto' }}
      data-testid="two-skins"
    >
      <LinkedViewports shotId={shot.id} sides={sides} wipe={wipe} moving={moving} />
      {/* Over the one line of the pane: it says the same of one of them. */}
      <Box
        sx={{
          position: 'relative',
          zIndex: 3,
          bgcolor: c.panel,
          borderTop: `1px solid ${c.line}`,
          overflowX: 'auto',
          pr: '210px',
          py: 0.25,
        }}
      >
        <Box component="table" aria-label="Figures of both" sx={{ fontSize: 11.5, borderSpacing: '14px 0', whiteSpace: 'nowrap' }}>
          <thead>
            <tr style={{ color: c.dim, textAlign: 'left' }}>
              <th aria-label="Skin" />
              {figures.map((f) => (
                <th key={f.id} style={{ fontWeight: 500 }}>
                  {f.title}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {[
              { title: 'Held', of: held.report },
              { title: 'Now', of: report },
            ].map(({ title, of }) => (
              <tr key={title}>
                <th style={{ textAlign: 'left', fontWeight: 600 }}>{title}</th>
                {figures.map((f) => (
                  <td key={f.id} className="mono">
                    {of ? valueOf(f, of) : ''}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
    </Box>
  );
}
