import { AnimationMixer, type Mesh, type Object3D, Vector3 } from 'three';
import { type GLTF, GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import { WebIO } from '@gltf-transform/core';
import { wrongWithGlb } from './check-glb';
import { type ReadMesh, Unreadable } from './mesh-file';
import { joined, trianglesOf } from './read-static';

/** Pictures need a page to be decoded, and say nothing about a shape: they are taken out before the file is read. */
async function withoutPictures(bytes: Uint8Array): Promise<ArrayBuffer> {
  const io = new WebIO();
  const document = await io.readBinary(bytes.slice());
  for (const texture of document.getRoot().listTextures()) texture.dispose();
  for (const material of document.getRoot().listMaterials()) material.dispose();
  return (await io.writeBinary(document)).slice().buffer;
}

/** Meshes of a glTF scene: standing, moved by their nodes, skinned or morphed. Its first animation is the one that plays. */
export async function readGlb(bytes: Uint8Array): Promise<ReadMesh> {
  const wrong = wrongWithGlb(bytes);
  if (wrong !== null) throw new Unreadable(wrong);
  const data = await withoutPictures(bytes);
  const gltf = await new Promise<GLTF>((resolve, reject) => {
    new GLTFLoader().parse(data, '', resolve, reject);
  });
  const { scene, animations } = gltf;
  const meshes: Mesh[] = [];
  let ignored = 0;
  scene.traverse((o: Object3D) => {
    const kind = o as Partial<Mesh> & { isLine?: boolean; isPoints?: boolean };
    if (kind.isMesh) meshes.push(o as Mesh);
    else if (kind.isLine || kind.isPoints) ignored++;
  });
  const parts: { positions: Float32Array; triangles: Uint32Array }[] = [];
  let base = 0;
  for (const mesh of meshes) {
    const part = trianglesOf(mesh.geometry, base);
    parts.push(part);
    base += part.positions.length / 3;
  }
  const clip = animations[0];
  const mixer = new AnimationMixer(scene);
  if (clip) mixer.clipAction(clip).play();
  const at = new Vector3();
  const pose = (seconds: number): Float32Array => {
    // The very end of a clip that repeats is its beginning.
    if (clip) mixer.setTime(Math.min(seconds, clip.duration - 1e-5));
    scene.updateMatrixWorld(true);
    const out = new Float32Array(base * 3);
    let n = 0;
    for (const mesh of meshes) {
      for (let v = 0; v < mesh.geometry.getAttribute('position').count; v++, n++) {
        mesh.getVertexPosition(v, at).applyMatrix4(mesh.matrixWorld);
        out.set([at.x, at.y, at.z], 3 * n);
      }
    }
    return out;
  };
  const read = joined(parts);
  read.mesh.positions.set(pose(0));
  const notes = [
    ...(animations.length > 1 ? [`It has ${String(animations.length)} animations; the first one plays.`] : []),
    ...(ignored > 0 ? [`${String(ignored)} lines or point clouds in it were left out.`] : []),
  ];
  return { mesh: read.mesh, pose: clip ? pose : null, seconds: clip?.duration ?? 0, notes };
}
