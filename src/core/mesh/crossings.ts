import { BufferAttribute, BufferGeometry, Matrix4 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import type { TriangleMesh } from './mesh';

/** Larger meshes are not looked through: it would take minutes. */
const MOST = 150_000;
const ENOUGH = 200;

/** Pairs of triangles of a mesh that cross each other and share no corner; counts up to 200. null: too large to look. */
export function selfCrossings({ positions, triangles }: TriangleMesh): number | null {
  if (triangles.length / 3 > MOST) return null;
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  const index = triangles.slice();
  geometry.setIndex(new BufferAttribute(index, 1));
  const tree = new MeshBVH(geometry);
  let found = 0;
  const corner = (t: number, n: number): number => index[3 * t + n] ?? 0;
  tree.bvhcast(tree, new Matrix4(), {
    intersectsTriangles(a, b, i, j) {
      if (i >= j) return false;
      for (let n = 0; n < 9; n++) if (corner(i, n % 3) === corner(j, Math.floor(n / 3))) return false;
      if (a.intersectsTriangle(b)) found++;
      return found >= ENOUGH;
    },
  });
  return found;
}
