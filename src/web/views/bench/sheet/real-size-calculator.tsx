import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type ReactElement, useState } from 'react';
import { shapeBounds } from '#core/geometry';
import { REAL_SIZE_FORMULAS, atRealSize, realSize, solveOf, withSolve } from '#core/shot';
import { formatQuantity } from '#core/units';
import { say, useSheet, useSolve } from '#web/state';
import { NumberField, useColours } from '#web/ui';
import { PlainRow } from './plain-row';
import { CONTROL } from './sheet-layout';

/** Metres per unit, and a set built at 1:N brought to its real size in one edit. */
export function RealSizeCalculator(): ReactElement {
  const c = useColours();
  const fields = useSheet((s) => s.fields);
  const settings = useSolve();
  const editSheet = useSheet((s) => s.editSheet);
  const [factor, setFactor] = useState(10);
  const r = realSize(fields, settings, factor);
  const source = settings.sources.find((s) => !s.hidden);
  const box = source ? shapeBounds(source.shape) : null;
  const heightOf = box ? box.max[1] - box.min[1] : null;
  const fastest = Math.max(Math.hypot(...settings.forces.wind), ...settings.sources.map((s) => Math.hypot(...(s.velocity ?? [0, 0, 0]))));
  const row = (name: string, formula: string, now: string, then: string): ReactElement[] => [
    <span key={name}>{name}</span>,
    <span key={`${name} formula`} style={{ color: c.dim, fontSize: 11.5 }}>
      {formula}
    </span>,
    <span key={`${name} now`} className="mono" style={{ textAlign: 'right' }}>
      {now}
    </span>,
    <span key={`${name} then`} className="mono" style={{ textAlign: 'right', color: c.warning }}>
      {then}
    </span>,
  ];
  const metre = (v: number): string => formatQuantity(v, 'metre', { digits: 3 });
  const speed = (v: number): string => formatQuantity(v, 'speed', { digits: 3 });
  const plain = (v: number): string => formatQuantity(v, 'none', { digits: 3 });
  const setTimeScale = (v: number): void => {
    editSheet((s) => ({ ...s, fields: { ...s.fields, timeScale: Number(v.toPrecision(5)) } }), 'Time scale');
  };
  const apply = (): void => {
    const done = editSheet(
      (sheet) => {
        const { shot, settings: large } = atRealSize(sheet.fields, solveOf(sheet.settings), factor);
        return { fields: shot, settings: withSolve(sheet.settings, large) };
      },
      `Real size, 1 : ${String(factor)}`,
    );
    if (done) say('success', `Everything is ${String(factor)} times as large.`, { title: 'Undo', run: useSheet.getState().stepBack });
  };
  return (
    <>
      <PlainRow title="Metres per unit" help="Size of one scene unit of the programs that read the files. Belongs to the shot.">
        <NumberField
          label="Metres per unit"
          value={fields.metresPerUnit}
          unit="metre"
          min={1e-4}
          max={1e4}
          step={1.1}
          ratio
          width={CONTROL}
          onChange={(v) => editSheet((s) => ({ ...s, fields: { ...s.fields, metresPerUnit: v } }), 'Metres per unit')}
        />
      </PlainRow>
      <PlainRow title="Time scale" help="Seconds that pass in the computation in a second of the shot. Belongs to the shot.">
        <NumberField
          label="Time scale"
          value={fields.timeScale}
          unit="none"
          min={0.01}
          max={100}
          step={1.05}
          ratio
          width={CONTROL}
          onChange={setTimeScale}
        />
      </PlainRow>
      {fields.timeScale !== 1 && (
        <Box sx={{ color: c.dim, fontSize: 12 }} role="status" aria-label="What the time scale does">
          Reads {plain(1 / fields.timeScale ** 2)} times {fields.timeScale < 1 ? 'bigger' : 'as big'} (Froude: 1 / {plain(fields.timeScale)}
          ²).
        </Box>
      )}
      <Box component="section" aria-label="Real size" sx={{ mt: 1.5, pt: 1.25, borderTop: `1px solid ${c.line}` }}>
        <Box component="h3" sx={{ m: 0, fontSize: 13.5, fontWeight: 650 }}>
          Real size
        </Box>
        <Box sx={{ color: c.dim, fontSize: 12.5, mb: 0.5 }}>
          For a set that was built at 1 : N. Lengths grow by N; speeds and times by its root, so that the motion keeps its Froude number
          under the same gravity.
        </Box>
        <PlainRow title="Built at 1 : N, N =" help="How many times smaller than life the set was built.">
          <NumberField
            label="Built at 1 : N"
            value={factor}
            unit="none"
            min={0.01}
            max={1000}
            step={1.1}
            ratio
            width={CONTROL}
            onChange={setFactor}
          />
        </PlainRow>
        <Box
          sx={{
            display: 'grid',
            gridTemplateColumns: 'auto 1fr auto auto',
            columnGap: 1.25,
            rowGap: 0.35,
            fontSize: 12.5,
            alignItems: 'baseline',
            mt: 0.5,
          }}
        >
          <span />
          <span />
          <span style={{ color: c.dim, textAlign: 'right' }}>now</span>
          <span style={{ color: c.dim, textAlign: 'right' }}>real</span>
          {row('One unit', '× N', metre(fields.metresPerUnit), metre(r.metresPerUnit))}
          {row('Voxel size', '× N', metre(settings.detail.voxelSize), metre(r.voxelSize))}
          {heightOf !== null && source ? row('Source height', '× N', metre(heightOf), metre(heightOf * factor)) : null}
          {row('Fastest set', '× √N', speed(fastest), speed(fastest * r.speedFactor))}
          {row('Times', '× √N', '1 s', formatQuantity(r.timeFactor, 'second', { digits: 3 }))}
          {row('Or: time scale', '× 1/√N', plain(fields.timeScale), plain(r.timeScale))}
          {row('Gravity, if left', 'g × N', '9.81 m/s²', formatQuantity(r.gravityIfLeft, 'acceleration', { digits: 3 }))}
        </Box>
        <Box sx={{ color: c.dim, fontSize: 12, mt: 0.75 }}>
          {REAL_SIZE_FORMULAS.voxels}; frames stay, so that a slower motion is seen in part.
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
          <Button variant="outlined" color="inherit" onClick={apply} disabled={factor === 1} sx={{ borderColor: c.line }}>
            Bring to real size
          </Button>
          <Button
            variant="outlined"
            color="inherit"
            onClick={() => setTimeScale(r.timeScale)}
            disabled={factor === 1}
            sx={{ borderColor: c.line }}
          >
            Scale time instead
          </Button>
        </Box>
      </Box>
    </>
  );
}
