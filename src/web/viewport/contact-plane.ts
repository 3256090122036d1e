import * as THREE from 'three';
import { type ContactSlice } from '#core/flow';

export interface ContactColours {
  readonly solid: string;
  readonly band: string;
  readonly line: string;
}

/** Distances further out than so many voxels are not drawn. */
const FAR = 8;

/** A plane through the solids: what is inside, the band of a voxel on either side where matter meets it, and a line at every voxel outside. */
export function contactPlane({ axis, at, low, span, size, values, voxelSize: h }: ContactSlice, colours: ContactColours): THREE.Mesh {
  const [w, ht] = size;
  const data = new Uint8Array(w * ht * 4);
  const rgb = (c: string): [number, number, number] => {
    const k = new THREE.Color(c);
    return [k.r, k.g, k.b].map((v) => Math.round(255 * new THREE.Color(v, v, v).convertLinearToSRGB().r)) as [number, number, number];
  };
  const [solid, band, line] = [rgb(colours.solid), rgb(colours.band), rgb(colours.line)];
  for (let n = 0; n < w * ht; n++) {
    const d = (values[n] ?? 0) / h;
    let colour = solid;
    let alpha = 0;
    if (Math.abs(d) < 1) {
      colour = band;
      // The contact surface itself is the brightest.
      alpha = 0.35 + 0.6 * Math.max(0, 1 - 2.2 * Math.abs(d));
    } else if (d < 0) alpha = 0.6;
    else if (d < FAR && Math.abs(d - Math.round(d)) < 0.16) {
      colour = line;
      alpha = 0.9 * (1 - d / FAR);
    }
    data.set([...colour, Math.round(255 * alpha)], 4 * n);
  }
  const texture = new THREE.DataTexture(data, w, ht);
  texture.colorSpace = THREE.SRGBColorSpace;
  texture.magFilter = THREE.LinearFilter;
  texture.minFilter = THREE.LinearFilter;
  texture.needsUpdate = true;
  const plane = new THREE.PlaneGeometry(1, 1);
  const [b, c] = ([0, 1, 2] as const).filter((a) => a !== axis) as [0 | 1 | 2, 0 | 1 | 2];
  const position = plane.getAttribute('position');
  const uv = plane.getAttribute('uv');
  for (let n = 0; n < 4; n++) {
    const p: [number, number, number] = [at, at, at];
    const [s, t] = [n & 1, n >> 1];
    p[b] = low[0] + s * span[0];
    p[c] = low[1] + t * span[1];
    position.setXYZ(n, ...p);
    uv.setXY(n, s, t);
  }
  const mesh = new THREE.Mesh(
    plane,
    new THREE.MeshBasicMaterial({ map: texture, transparent: true, side: THREE.DoubleSide, depthWrite: false, toneMapped: false }),
  );
  mesh.renderOrder = 5;
  mesh.frustumCulled = false;
  return mesh;
}
