import * as z from 'zod';
import { shotFileSchema } from '#core/shot';
import type { Command } from './command';
import { EXIT } from './exit';

export const schemaCommand: Command = {
  summary: "prints the shot file's JSON Schema",
  help: `Prints the JSON Schema of a shot file on standard output.\n\nUsage: ruddle schema`,
  run() {
    console.log(JSON.stringify(z.toJSONSchema(shotFileSchema, { io: 'input' }), null, 1));
    return Promise.resolve(EXIT.done);
  },
};
