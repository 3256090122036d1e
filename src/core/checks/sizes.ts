import type { ShapeSettings, SolidSettings } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { Check, CheckInput, Finding, Remedy } from './finding';

const SOURCE_VOXELS = 3;
const SOLID_VOXELS = 2;

/** Least width of a shape, metres. */
export const widthOf = (shape: ShapeSettings): number => {
  switch (shape.kind) {
    case 'box':
      return Math.min(...shape.size);
    case 'ball':
      return 2 * shape.radius;
    case 'cylinder':
      return Math.min(2 * shape.radius, shape.height);
    case 'mesh':
      // Of the box around it: thin parts of it are not known here.
      return shape.scale * Math.min(...([0, 1, 2] as const).map((a) => shape.extent.max[a] - shape.extent.min[a]));
  }
};

/** Thickness of what matter meets of a solid, metres. */
export const thicknessOf = (solid: SolidSettings): number => (solid.body === 'filled' ? widthOf(solid.shape) : solid.thickness);

/** The Final's voxel size at which a width has as many voxels at this plan's rung. */
const finer = ({ settings, plan }: CheckInput, width: number, voxels: number): Remedy => {
  const factor = plan.options.voxelSize / settings.detail.voxelSize;
  const size = Number((width / voxels / factor).toPrecision(3));
  return {
    title: `Voxel size ${formatQuantity(settings.detail.voxelSize, 'metre')} → ${formatQuantity(size, 'metre')}`,
    edits: [{ path: 'detail.voxelSize', value: size }],
  };
};

const at = (plan: CheckInput['plan']): string =>
  plan.rung === 'final' ? 'with these voxels' : `in this ${plan.rung === 'test' ? 'Test' : 'Sketch'}`;

/** A source that has too few voxels across emits in steps, and its shape is not seen. */
export const smallSources: Check = {
  id: 'small-source',
  find(input) {
    const h = input.plan.options.voxelSize;
    return input.settings.sources.flatMap((source, n): Finding[] => {
      const width = widthOf(source.shape);
      if (source.hidden || width >= SOURCE_VOXELS * h * (1 - 1e-6)) return [];
      return [
        {
          id: `small-source:${String(n)}`,
          group: 'sources',
          severity: 'warning',
          title: `${source.name} is ${(width / h).toFixed(1)} voxels across ${at(input.plan)}`,
          text: `It is ${formatQuantity(width, 'metre', { digits: 3 })} at its thinnest; below ${String(SOURCE_VOXELS)} voxels it emits in lumps and loses its shape. Take finer voxels or a larger source.`,
          frames: null,
          remedies: [finer(input, width, SOURCE_VOXELS)],
        },
      ];
    });
  },
};

/** Samples of a solid finer than the voxels that meet it: time for nothing. */
export const fineSolids: Check = {
  id: 'fine-solid',
  find: ({ settings }) =>
    settings.solids.flatMap((solid, n): Finding[] => {
      const { voxelSize } = settings.detail;
      if (solid.hidden || solid.shape.kind !== 'mesh' || solid.voxelSize === null || solid.voxelSize >= voxelSize * (1 - 1e-6)) return [];
      return [
        {
          id: `fine-solid:${String(n)}`,
          group: 'solids',
          severity: 'note',
          title: `${solid.name} is sampled ${(voxelSize / solid.voxelSize).toFixed(1)} times finer than the gas`,
          text: `Matter meets it on voxels of ${formatQuantity(voxelSize, 'metre')}; samples of ${formatQuantity(solid.voxelSize, 'metre')} take ${((voxelSize / solid.voxelSize) ** 3).toFixed(0)} times the memory and gain nothing.`,
          frames: null,
          remedies: [{ title: 'Own voxel size → as the bounds', edits: [{ path: `solids[${String(n)}].voxelSize`, value: null }] }],
        },
      ];
    }),
};

/** A solid thinner than two voxels leaks, or is not there at all. */
export const thinSolids: Check = {
  id: 'thin-solid',
  find(input) {
    const h = input.plan.options.voxelSize;
    return input.settings.solids.flatMap((solid, n): Finding[] => {
      const width = thicknessOf(solid);
      if (solid.hidden || width >= SOLID_VOXELS * h * (1 - 1e-6)) return [];
      const remedies: Remedy[] = [];
      const thick = Number((Math.ceil(SOLID_VOXELS * h * 1000) / 1000).toPrecision(3));
      if (solid.body !== 'filled') {
        remedies.push({
          title: `Wall thickness ${formatQuantity(width, 'metre', { digits: 3 })} → ${formatQuantity(thick, 'metre', { digits: 3 })}`,
          edits: [{ path: `solids[${String(n)}].thickness`, value: thick }],
        });
      } else if (solid.shape.kind === 'box') {
        remedies.push({
          title: `Thickness ${formatQuantity(width, 'metre', { digits: 3 })} → ${formatQuantity(thick, 'metre', { digits: 3 })}`,
          edits: [{ path: `solids[${String(n)}].shape.size`, value: solid.shape.size.map((v) => Math.max(v, thick)) }],
        });
      }
      return [
        {
          id: `thin-solid:${String(n)}`,
          group: 'solids',
          severity: width < h ? 'warning' : 'note',
          title: `${solid.name} is ${(width / h).toFixed(1)} voxels thick ${at(input.plan)}`,
          text: `Below ${String(SOLID_VOXELS)} voxels matter can leak through, below one it may not be there. Make it thicker or the voxels finer.`,
          frames: null,
          remedies: [...remedies, finer(input, width, SOLID_VOXELS)],
        },
      ];
    });
  },
};
