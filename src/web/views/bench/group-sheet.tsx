import Box from '@mui/material/Box';
import type { ReactElement } from 'react';
import { z } from 'zod';
import type { FrameReport } from '#core/gas';
import { GROUPS, type Group, RUNGS, defaultLimit, inner, rungTitle, settingsSchema } from '#core/shot';
import { formatBytes, formatCount, formatQuantity, formatSeconds } from '#core/units';
import type { RunDto, ShotDto } from '#protocol';
import { useSheet } from '#web/state';
import { useColours } from '#web/ui';
import { Fields } from './fields';
import { ItemList } from './item-list';

/** One line under the question. */
const LINES: Readonly<Record<Group, string>> = {
  scale: 'Everything inside is metres; files are written in the units of the scene.',
  detail: 'Half the voxel size is 8 times the voxels, and shorter steps.',
  stepping: 'Substeps follow the fastest matter, between two limits.',
  bounds: 'Computing happens inside; matter that leaves them is booked.',
  sources: 'Each emits into the voxels that it covers.',
  solids: 'Matter cannot enter them.',
  forces: 'What acts on the air, with or without matter in it.',
  matter: 'How the gas rises, cools, thins and is carried.',
  keep: 'What each frame leaves on the disk.',
};

export function GroupSheet({
  group,
  shot,
  run,
  report,
}: {
  group: Group;
  shot: ShotDto;
  run: RunDto | null;
  report: FrameReport | null;
}): ReactElement {
  const c = useColours();
  const settings = useSheet((s) => s.settings);
  const schema = inner(settingsSchema.shape[group]);
  return (
    <Box
      role="tabpanel"
      aria-label={GROUPS[group].title}
      sx={{ borderTop: `1px solid ${c.line}`, p: 1.5, pt: 1.25, overflow: 'auto', flex: 1, minHeight: 0 }}
    >
      <Box component="h2" sx={{ m: 0, fontSize: 15, fontWeight: 650 }}>
        {GROUPS[group].question}
      </Box>
      <Box sx={{ color: c.dim, fontSize: 12.5, mb: 1 }}>{LINES[group]}</Box>
      {schema instanceof z.ZodArray ? (
        <ItemList group={group as 'sources' | 'solids'} />
      ) : (
        <Fields schema={schema as z.ZodObject} path={[group]} />
      )}
      {group === 'detail' && <DetailFigures run={run} report={report} />}
      {group === 'scale' && (
        <Box sx={{ mt: 1, fontSize: 12.5, color: c.dim }}>
          One scene unit is {formatQuantity(shot.fields.metresPerUnit, 'metre')}; {shot.fields.framesPerSecond} frames a second. Both belong
          to the shot, not to the variant.
        </Box>
      )}
      {group === 'bounds' && settings.bounds.limit === null && <LimitNote />}
    </Box>
  );
}

function LimitNote(): ReactElement {
  const c = useColours();
  const settings = useSheet((s) => s.settings);
  const limit = defaultLimit(settings);
  const size = ([0, 1, 2] as const).map((a) => formatQuantity(limit.max[a] - limit.min[a], 'metre', { bare: true }));
  return <Box sx={{ mt: 1, fontSize: 12.5, color: c.dim }}>The limit box is derived: {size.join(' × ')} m.</Box>;
}

/** Voxel counts that the sheet means, and what the shown run took. */
function DetailFigures({ run, report }: { run: RunDto | null; report: FrameReport | null }): ReactElement {
  const c = useColours();
  const settings = useSheet((s) => s.settings);
  const limit = settings.bounds.limit ?? defaultLimit(settings);
  const longest = Math.max(...([0, 1, 2] as const).map((a) => (limit.max[a] ?? 0) - (limit.min[a] ?? 0)));
  const row = (name: string, ...values: string[]): ReactElement => (
    <Box key={name} sx={{ display: 'contents' }}>
      <span>{name}</span>
      {values.map((v, n) => (
        <span key={n} className="mono" style={{ textAlign: 'right' }}>
          {v}
        </span>
      ))}
    </Box>
  );
  const size = settings.detail.voxelSize;
  return (
    <>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr auto auto', columnGap: 2, rowGap: 0.4, mt: 1.5, fontSize: 12.5 }}>
        <span style={{ color: c.dim }}>By the sheet</span>
        <span style={{ color: c.dim, textAlign: 'right' }}>Test</span>
        <span style={{ color: c.dim, textAlign: 'right' }}>Final</span>
        {row('Voxel size', formatQuantity(size * RUNGS.test, 'metre'), formatQuantity(size, 'metre'))}
        {row('Voxels, longest side', formatCount(Math.round(longest / size / RUNGS.test)), formatCount(Math.round(longest / size)))}
      </Box>
      {run && run.framesDone > 0 && (
        <Box
          sx={{
            display: 'grid',
            gridTemplateColumns: '1fr auto',
            columnGap: 2,
            rowGap: 0.4,
            mt: 1.5,
            pt: 1.25,
            borderTop: `1px solid ${c.line}`,
            fontSize: 12.5,
          }}
        >
          <span style={{ color: c.dim }}>Measured</span>
          <span style={{ color: c.dim, textAlign: 'right' }}>
            {rungTitle[run.rung]}, run {run.number}
          </span>
          {report && row('Active voxels, this frame', formatCount(report.activeVoxels))}
          {row('Time, all frames', formatSeconds(run.seconds))}
          {row('Memory, most', formatBytes(run.memoryBytes))}
          {row('Disk', formatBytes(run.bytes))}
          {report && row('Mass, numerical change', `${((report.mass.advection / Math.max(report.mass.start, 1e-12)) * 100).toFixed(2)} %`)}
        </Box>
      )}
    </>
  );
}
