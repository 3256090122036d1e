import type { ShapeSettings, SolidSettings } from './solve-settings';

/** Voxels that a solid must have across to keep matter out everywhere: a plate of half a voxel, tilted by 17 degrees, lets 19 % through, one of a voxel 4 %. */
export const SOLID_VOXELS = 2;

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

/** Thickness of what matter meets of a solid as it is set, metres. */
export const thicknessOf = (solid: Pick<SolidSettings, 'body' | 'shape' | 'thickness'>): number =>
  solid.body === 'filled' ? widthOf(solid.shape) : solid.thickness;

/** Whether a solid is widened in a solve: a gas leaks a little through what is thin, a liquid is crushed by it. */
export const widens = ({ widen }: Pick<SolidSettings, 'widen'>, liquid: boolean): boolean =>
  widen === 'always' || (widen === 'liquids' && liquid);

/** Body of a solid that is widened to what voxels of this size can hold: a thicker wall, or a filled body grown on all sides (offset: voxels). */
export function widened(
  solid: Pick<SolidSettings, 'body' | 'shape' | 'thickness' | 'offset' | 'widen'>,
  voxelSize: number,
  liquid: boolean,
): { readonly thickness: number; readonly offset: number } {
  const { thickness, offset } = solid;
  const least = SOLID_VOXELS * voxelSize;
  if (!widens(solid, liquid) || thicknessOf(solid) >= least) return { thickness, offset };
  return solid.body === 'filled'
    ? { thickness, offset: offset + (least - widthOf(solid.shape)) / voxelSize / 2 }
    : { thickness: least, offset };
}
