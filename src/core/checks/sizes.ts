import { SOLID_VOXELS, isLiquid, thicknessOf, widens, widthOf } from '#core/shot';
import { formatQuantity } from '#core/units';
import type { Check, Finding, FlowCheckInput, Remedy } from './finding';

const SOURCE_VOXELS = 3;

/** The Final's voxel size at which a width has as many voxels at this plan's rung. */
const finer = ({ settings, plan }: FlowCheckInput, width: number, voxels: number): Remedy => {
  const factor = plan.options.voxelSize / settings.detail.voxelSize;
  const size = Number((width / voxels / factor).toPrecision(3));
  return {
    title: `Voxel size ${formatQuantity(settings.detail.voxelSize, 'metre')} → ${formatQuantity(size, 'metre')}`,
    edits: [{ path: 'detail.voxelSize', value: size }],
  };
};

const at = (plan: FlowCheckInput['plan']): string =>
  plan.rung === 'final' ? 'with these voxels' : `in this ${plan.rung === 'test' ? 'Test' : 'Sketch'}`;

/** A source that has too few voxels across emits in steps, and its shape is not seen. */
export const smallSources: Check<FlowCheckInput> = {
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
export const fineSolids: Check<FlowCheckInput> = {
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
          title: `${solid.name} is sampled ${(voxelSize / solid.voxelSize).toFixed(1)} times finer than the voxels`,
          text: `Matter meets it on voxels of ${formatQuantity(voxelSize, 'metre')}; samples of ${formatQuantity(solid.voxelSize, 'metre')} take ${((voxelSize / solid.voxelSize) ** 3).toFixed(0)} times the memory and gain nothing.`,
          frames: null,
          remedies: [{ title: 'Own voxel size → as the bounds', edits: [{ path: `solids[${String(n)}].voxelSize`, value: null }] }],
        },
      ];
    }),
};

const isWidened = (input: FlowCheckInput, name: string, n: number, width: number): Finding => ({
  id: `widened-solid:${String(n)}`,
  group: 'solids',
  severity: 'note',
  title: `${name} is widened from ${formatQuantity(width, 'metre', { digits: 2 })} to ${formatQuantity(SOLID_VOXELS * input.plan.options.voxelSize, 'metre', { digits: 2 })} ${at(input.plan)}`,
  text: `Thinner than ${String(SOLID_VOXELS)} voxels it would leak. Matter stops a little before the surface that is drawn; finer voxels bring it closer.`,
  frames: null,
  remedies: [finer(input, width, SOLID_VOXELS)],
});

/** A solid thinner than two voxels leaks, or is not there at all. */
export const thinSolids: Check<FlowCheckInput> = {
  id: 'thin-solid',
  find(input) {
    const h = input.plan.options.voxelSize;
    return input.settings.solids.flatMap((solid, n): Finding[] => {
      const width = thicknessOf(solid);
      if (solid.hidden || width >= SOLID_VOXELS * h * (1 - 1e-6)) return [];
      if (widens(solid, isLiquid(input.settings))) return [isWidened(input, solid.name, n, width)];
      const remedies: Remedy[] = [
        { title: 'Widen to the voxels → always', edits: [{ path: `solids[${String(n)}].widen`, value: 'always' }] },
      ];
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
