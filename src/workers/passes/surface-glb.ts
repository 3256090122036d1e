import { Document, WebIO } from '@gltf-transform/core';
import { EXTMeshoptCompression } from '@gltf-transform/extensions';
import { MeshoptEncoder } from 'meshoptimizer';
import type { MeshColumns } from '#core/formats';

/**
 * A mesh as .glb: metres and y up, as glTF has it; velocities (m/s of the shot's time) and other columns as attributes of their own (`_VELOCITY`). `compressed`: by
 * EXT_meshopt_compression, without rounding.
 */
export async function writeGlb(mesh: MeshColumns, timeScale: number, compressed: boolean): Promise<Uint8Array<ArrayBuffer>> {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Ruddle';
  const buffer = document.createBuffer();
  const scene = document.createScene('surface');
  document.getRoot().setDefaultScene(scene);
  if (mesh.triangles.length > 0) {
    const accessor = (values: Float32Array | Uint32Array, type: 'SCALAR' | 'VEC3') =>
      document.createAccessor().setBuffer(buffer).setType(type).setArray(values.slice());
    const primitive = document
      .createPrimitive()
      .setIndices(accessor(mesh.triangles, 'SCALAR'))
      .setAttribute('POSITION', accessor(mesh.places, 'VEC3'))
      .setAttribute('NORMAL', accessor(mesh.normals, 'VEC3'))
      .setAttribute(
        '_VELOCITY',
        accessor(
          mesh.velocities.map((v) => v * timeScale),
          'VEC3',
        ),
      );
    for (const { name, values } of mesh.columns)
      primitive.setAttribute(`_${name.toUpperCase().replace(/[^A-Z0-9_]/g, '_')}`, accessor(values, 'SCALAR'));
    scene.addChild(document.createNode('surface').setMesh(document.createMesh('surface').addPrimitive(primitive)));
  }
  const io = new WebIO();
  if (compressed && mesh.triangles.length > 0) {
    await MeshoptEncoder.ready;
    io.registerExtensions([EXTMeshoptCompression]).registerDependencies({ 'meshopt.encoder': MeshoptEncoder });
    document
      .createExtension(EXTMeshoptCompression)
      .setRequired(true)
      .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
  }
  return new Uint8Array(await io.writeBinary(document));
}
