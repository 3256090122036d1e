import { access, constants } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { RuddleError } from '#core/errors';
import { FILE_UNITS, type FileUnit, importedShape } from '#core/shot';
import { geometryPath, keepGeometry } from '#server/cache';
import { importGeometry } from '#workers/node';
import type { Command } from './command';
import { EXIT, UsageError } from './exit';

const UNITS = Object.keys(FILE_UNITS) as FileUnit[];

const HELP = `Turns a mesh (.obj .ply .stl .glb), a signed distance (.vdb) or points (.ply, a .zip of numbered .ply) into geometry that a shot file can name,
and a picture (.png .jpg .webp .tif) into a mask of what a source emits.

Usage: ruddle import FILE [--out DIR] [--unit UNIT] [--up y|z] [--json]

  --out DIR    where the geometry goes (geometry; keep it beside the shot file)
  --unit UNIT  of the file: ${UNITS.join(', ')} (guessed from its size)
  --up AXIS    which axis points up in the file (y)
  --fps N      frames a second of the shot, for a series of points (24)
  --json       everything that is known of it, as JSON

Prints what was found, and the shape to put into a source or a solid of the shot file, or the mask to put into a source.`;

export const importCommand: Command = {
  summary: 'reads a mesh, a signed distance, points or a picture for a shot',
  help: HELP,
  async run(args) {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        out: { type: 'string', default: 'geometry' },
        unit: { type: 'string' },
        up: { type: 'string', default: 'y' },
        fps: { type: 'string', default: '24' },
        json: { type: 'boolean', default: false },
      },
    });
    const file = positionals[0];
    if (file === undefined || positionals.length > 1) throw new UsageError('Name one file: ruddle import FILE');
    if (values.unit !== undefined && !(UNITS as string[]).includes(values.unit)) {
      throw new UsageError(`--unit is ${values.unit}; it can be ${UNITS.join(', ')}.`);
    }
    if (values.up !== 'y' && values.up !== 'z') throw new UsageError(`--up is ${values.up}; it can be y or z.`);
    const fps = Number(values.fps);
    if (!(fps >= 1 && fps <= 240)) throw new UsageError(`--fps is ${values.fps}; it can be 1 to 240.`);
    await access(file, constants.R_OK).catch((cause: unknown) => {
      throw new RuddleError('not-found', `There is no file ${file} that can be read.`, { what: file }, cause);
    });
    const folder = resolve(values.out);
    const stop = new AbortController();
    process.once('SIGINT', () => {
      stop.abort();
    });
    const { info, bytes: geometry } = await importGeometry(resolve(file), basename(file), { signal: stop.signal });
    await keepGeometry(folder, info.hash, geometry);
    if (info.kind === 'picture') {
      const mask = { picture: info.hash, file: info.file };
      if (values.json) console.log(JSON.stringify({ ...info, path: geometryPath(folder, info.hash), mask }, null, 1));
      else {
        console.log(`${file}: a picture of ${String(info.size[0])} x ${String(info.size[1])} pixels`);
        for (const note of info.notes) console.log(`  ${note}`);
        console.log(`It is kept as ${geometryPath(folder, info.hash)}. The mask for a source of the shot file:`);
        console.log(JSON.stringify(mask, null, 2));
      }
      return EXIT.done;
    }
    const unit = (values.unit ?? info.unit) as FileUnit;
    const shape = importedShape(info, FILE_UNITS[unit].metres, values.up, fps);
    if (values.json) console.log(JSON.stringify({ ...info, unit, path: geometryPath(folder, info.hash), shape }, null, 1));
    else {
      console.log(
        `${file}: ${info.kind === 'mesh' ? `${String(info.triangles)} triangles` : info.kind === 'points' ? 'points' : 'a signed distance'}, taken to be in ${FILE_UNITS[unit].title}`,
      );
      for (const note of info.notes) console.log(`  ${note}`);
      console.log(`Its geometry is ${geometryPath(folder, info.hash)}. The shape for the shot file:`);
      console.log(JSON.stringify(shape, null, 2));
    }
    return EXIT.done;
  },
};
