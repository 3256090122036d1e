import type { PassFinding } from '#core/pass';
import { type SurfaceSettings, filterSchema, metaOf } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { SurfaceReport } from './body';
import { surfaceNote } from './note';

/** Part of the particles that may lie outside. */
const OUTSIDE = 0.01;
/** Part of what is thin that may be lost. */
const THIN = 0.15;
const VOLUME = 0.02;
/** Voxels by which a skin may differ from those of the frames beside, moved to it. */
const FLICKER = 0.35;
/** Crumbs a thousand particles. */
const CRUMBS = 2;

const percent = (v: number): string => `${String(Number((100 * v).toPrecision(2)))} %`;

/** The frame where a number is largest. */
function worst(
  reports: readonly SurfaceReport[],
  of: (r: SurfaceReport) => number,
): { readonly report: SurfaceReport; readonly value: number } | null {
  let found: { report: SurfaceReport; value: number } | null = null;
  for (const report of reports) {
    const value = of(report);
    if (Number.isFinite(value) && (!found || value > found.value)) found = { report, value };
  }
  return found;
}

const FILTERS = (metaOf(filterSchema.shape.kind)?.names ?? {}) as Readonly<Record<SurfaceSettings['stack'][number]['kind'], string>>;

type Own = SurfaceSettings;
type Reports = readonly SurfaceReport[];

function pokes(own: Own, reports: Reports): PassFinding[] {
  const at = worst(reports, (r) => r.outside.count / Math.max(1, r.particles));
  if (!at || at.value < OUTSIDE) return [];
  return [
    {
      id: 'outside',
      title: `${percent(at.value)} of the particles poke through`,
      text: `At frame ${String(at.report.frame)}, up to ${formatQuantity(at.report.outside.farthest, 'metre', { digits: 2 })} outside of the skin: spray without a skin, or bumps that a filter took. A larger radius, or fewer iterations of the filters, keeps them in.`,
      remedies: [
        own.distance.radius === 'metres'
          ? {
              label: `Radius ${formatQuantity(1.2 * own.distance.radiusMetres, 'metre', { digits: 2 })}`,
              path: ['distance', 'radiusMetres'],
              value: Number((1.2 * own.distance.radiusMetres).toPrecision(3)),
            }
          : {
              label: `Radius ${String(Number((1.2 * own.distance.radiusFactor).toPrecision(2)))} spacings`,
              path: ['distance', 'radiusFactor'],
              value: Number((1.2 * own.distance.radiusFactor).toPrecision(2)),
            },
      ],
    },
  ];
}

function smallRadius(own: Own, _reports: Reports): PassFinding[] {
  const note = surfaceNote(own, null);
  return note === null ? [] : [{ id: 'radius', title: 'The radius is too small for the voxels', text: note }];
}

function thinLost(own: Own, reports: Reports): PassFinding[] {
  const at = worst(reports, (r) => (r.thin.particles >= 20 ? 1 - r.thin.kept / r.thin.particles : 0));
  if (!at || at.value < THIN) return [];
  const { thin, eaten, frame } = at.report;
  const filter = eaten ? own.stack[eaten.filter] : undefined;
  const lost = `At frame ${String(frame)} ${percent(at.value)} of the particles in films and filaments have no skin any more.`;
  if (!eaten || !filter) {
    return [
      {
        id: 'thin',
        title: 'Thin parts are lost',
        text: `${lost} No filter took them: they were too thin for the radius and the voxels, or the volume was kept by moving the skin in by ${formatQuantity(Math.max(0, -at.report.shift), 'metre', { digits: 2 })}. Anisotropic kernels and smaller voxels hold films.`,
        remedies: [{ label: 'Anisotropic kernels', path: ['distance', 'method'], value: 'kernels' }],
      },
    ];
  }
  const name = `${FILTERS[filter.kind]} (filter ${String(eaten.filter + 1)})`;
  return [
    {
      id: 'thin',
      title: `${FILTERS[filter.kind]} eats the thin parts`,
      text: `${lost} Tried without ${name}, ${percent(eaten.without / thin.particles)} of them are inside after the filters; with it, ${percent((thin.after[thin.after.length - 1] ?? 0) / thin.particles)}.`,
      remedies: [
        { label: 'Spare what is thin', path: ['stack', eaten.filter, 'spareThin'], value: 1 },
        { label: 'Switch it off', path: ['stack', eaten.filter, 'on'], value: false },
      ],
    },
  ];
}

function volume(own: Own, reports: Reports): PassFinding[] {
  const at = worst(reports, (r) => (r.volume.particles > 0 && r.triangles > 0 ? Math.abs(r.volume.skin / r.volume.particles - 1) : 0));
  if (!at || at.value < VOLUME || own.walls.meeting === 'inside' || own.waves.height > 0) return [];
  const { skin, particles } = at.report.volume;
  const off = `At frame ${String(at.report.frame)} the skin holds ${percent(skin / particles)} of the particles' volume`;
  return [
    {
      id: 'volume',
      title: skin > particles ? 'The skin holds too much' : 'The skin holds too little',
      text: own.polygons.keepVolume
        ? `${off}, though it was moved by ${formatQuantity(at.report.shift, 'metre', { digits: 2 })}: more than 1.5 voxels would take thin parts away. ${skin > particles ? 'A smaller' : 'A larger'} radius is what it needs.`
        : `${off}. Keep the volume, or change the radius.`,
      ...(own.polygons.keepVolume ? {} : { remedies: [{ label: 'Keep the volume', path: ['polygons', 'keepVolume'], value: true }] }),
    },
  ];
}

function drift(own: Own, reports: Reports): PassFinding[] {
  if (own.polygons.keepVolume || reports.length < 3) return [];
  const ratios = reports.filter((r) => r.volume.particles > 0).map((r) => r.volume.skin / r.volume.particles);
  let most = 0;
  for (let n = 1; n < ratios.length; n++) most = Math.max(most, Math.abs((ratios[n] ?? 0) - (ratios[n - 1] ?? 0)));
  if (most < VOLUME) return [];
  return [
    {
      id: 'drift',
      title: `The volume jumps by ${percent(most)} from one frame to the next`,
      text: 'The skin swells and shrinks while the liquid does not: it will be seen to breathe. Keep the volume of the particles.',
      remedies: [{ label: 'Keep the volume', path: ['polygons', 'keepVolume'], value: true }],
    },
  ];
}

function flickers(own: Own, reports: Reports): PassFinding[] {
  const at = worst(reports, (r) => r.flicker ?? 0);
  if (!at || at.value < FLICKER) return [];
  return [
    {
      id: 'flicker',
      title: 'The skin flickers',
      text: `At frame ${String(at.report.frame)} it differs from the skins of the frames beside it, moved to it, by ${String(Number(at.value.toPrecision(2)))} voxels in the mean. A larger reach, or more of the frames beside, calms it.`,
      remedies: [
        {
          label: `Steady ${String(Math.min(0.8, own.polygons.steady + 0.2))}`,
          path: ['polygons', 'steady'],
          value: Math.min(0.8, Number((own.polygons.steady + 0.2).toFixed(2))),
        },
      ],
    },
  ];
}

function crumbs(own: Own, reports: Reports): PassFinding[] {
  const at = worst(reports, (r) => (1000 * r.pieces.crumbs) / Math.max(1, r.particles));
  if (!at || at.value < CRUMBS || at.report.pieces.crumbs < 20) return [];
  return [
    {
      id: 'crumbs',
      title: `${String(at.report.pieces.crumbs)} crumbs`,
      text: `At frame ${String(at.report.frame)} that many pieces of the skin hold less than ${String(Number(own.polygons.crumb.toPrecision(2)))} particles. Spray makes some; if the bulk has crumbs too, the radius or the joining distance is too small.`,
      ...(own.distance.joining !== null
        ? {
            remedies: [
              {
                label: `Joining distance ${String(own.distance.joining + 1)} spacings`,
                path: ['distance', 'joining'],
                value: own.distance.joining + 1,
              },
            ],
          }
        : {}),
    },
  ];
}

function gaps(own: Own, reports: Reports): PassFinding[] {
  const at = worst(reports, (r) => (r.contact ? r.contact.gap.mean : 0));
  const voxel = at?.report.voxelSize ?? Infinity;
  if (!at || at.value < 0.15 * voxel) return [];
  return [
    {
      id: 'gap',
      title: 'A gap between skin and wall',
      text: `At frame ${String(at.report.frame)} the skin ends ${formatQuantity(at.value, 'metre', { digits: 2 })} before the walls in the mean, ${formatQuantity(at.report.contact?.gap.largest ?? 0, 'metre', { digits: 2 })} at most: particles stop a little before a wall. Let it meet the contact surface.`,
      ...(own.walls.meeting === 'trimmed'
        ? { remedies: [{ label: 'At the contact surface', path: ['walls', 'meeting'], value: 'contact' }] }
        : {}),
    },
  ];
}

function leftOut(_own: Own, reports: Reports): PassFinding[] {
  const at = worst(reports, (r) => r.without);
  if (!at || at.value === 0) return [];
  return [
    {
      id: 'without',
      title: `${String(at.value)} particles are left out`,
      text: `At frame ${String(at.report.frame)} their radius is 0 or no number. Look at what wrote them, or take a radius of the spacing.`,
      remedies: [{ label: 'Radius of the spacing', path: ['distance', 'radius'], value: 'factor' }],
    },
  ];
}

const CHECKS = [smallRadius, thinLost, pokes, volume, drift, flickers, crumbs, gaps, leftOut] as const;

/** What a surface's run shows that somebody should know, the gravest first. */
export const surfaceChecks = (own: Own, reports: Reports): PassFinding[] => CHECKS.flatMap((check) => check(own, reports));
