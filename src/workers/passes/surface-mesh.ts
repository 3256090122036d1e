import { MeshoptSimplifier } from 'meshoptimizer';
import { type MeshColumns, writeMeshPly, writeObj } from '#core/formats';
import type { FileConvention } from '#core/pass';
import type { SurfaceBody } from '#core/passes';
import { type SurfaceMesh, compact } from '#core/surface';

/** How much a normal's change counts beside a place's, when triangles are made fewer. */
const NORMAL_WEIGHT = 0.5;

/** A mesh of fewer triangles: a share of them, or as few as an error allows; coarser where it is flat. Rims and openings stay. */
export async function simplified(mesh: SurfaceMesh, how: NonNullable<SurfaceBody['simplify']>): Promise<SurfaceMesh> {
  if (mesh.triangles.length === 0) return mesh;
  await MeshoptSimplifier.ready;
  const target = how.kind === 'share' ? Math.floor((mesh.triangles.length * how.share) / 3) * 3 : 0;
  const scale = MeshoptSimplifier.getScale(mesh.places, 3);
  // Of a share any error is allowed; the error is told in parts of the mesh's extent.
  const error = how.kind === 'error' ? how.metres / Math.max(scale, 1e-12) : 1;
  const [triangles] = MeshoptSimplifier.simplifyWithAttributes(
    mesh.triangles,
    mesh.places,
    3,
    mesh.normals,
    3,
    how.kind === 'share' ? [NORMAL_WEIGHT, NORMAL_WEIGHT, NORMAL_WEIGHT] : [0, 0, 0],
    null,
    target,
    error,
    ['LockBorder'],
  );
  return compact(mesh, triangles);
}

/** A mesh as its file. */
export async function meshFile(
  mesh: MeshColumns,
  { mesh: kind, compressed }: SurfaceBody['files'],
  file: FileConvention,
): Promise<Uint8Array<ArrayBuffer>> {
  if (kind === 'ply') return writeMeshPly(mesh, file);
  if (kind === 'obj') return writeObj(mesh, file);
  const { writeGlb } = await import('./surface-glb');
  return await writeGlb(mesh, file.timeScale, compressed);
}
