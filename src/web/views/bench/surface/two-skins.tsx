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

const SHOWN = ['outside', 'volume', 'shift', 'thin', 'roughness', 'triangles', 'pieces', 'crumbs', 'gap', 'seconds'];

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
    <Box sx={{ position: 'absolute', inset: '56px 0 0 0', display: 'grid' }} data-testid="two-skins">
      <LinkedViewports shotId={shot.id} sides={sides} wipe={wipe} moving={moving} />
      <Box
        sx={{
          position: 'absolute',
          right: 12,
          bottom: 44,
          zIndex: 4,
          bgcolor: c.panel,
          border: `1px solid ${c.line}`,
          borderRadius: 1.5,
          p: 1,
        }}
      >
        <Box component="table" aria-label="Figures of both" sx={{ fontSize: 12, borderSpacing: '12px 1px', m: '-2px -8px' }}>
          <thead>
            <tr style={{ color: c.dim, textAlign: 'right' }}>
              <th />
              <th style={{ fontWeight: 600 }}>Held</th>
              <th style={{ fontWeight: 600 }}>Now</th>
            </tr>
          </thead>
          <tbody>
            {figures.map((f) => (
              <tr key={f.id}>
                <td style={{ color: c.dim }}>{f.title}</td>
                <td className="mono" style={{ textAlign: 'right' }}>
                  {valueOf(f, held.report)}
                </td>
                <td className="mono" style={{ textAlign: 'right' }}>
                  {report ? valueOf(f, report) : ''}
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
    </Box>
  );
}
