import { RuddleError } from '#core/errors';
import type { FileConvention } from '#core/pass';
import type { FolderFacts } from '#core/passes';
import { type Settings, type ShotFields, followersOf, inputsOf } from '#core/shot';
import type { PassInputFiles } from '#protocol';
import { Reading } from '#workers/node';

/** One process looks at all folders, one after the other; it ends by itself when nothing is asked. */
const reading = new Reading();

/** What the folders hold that passes of a shot's sheets read, by path. Their files are read as the shot's own are written. */
export async function lookAtFolders(
  sheets: readonly Settings[],
  { metresPerUnit, timeScale }: Pick<ShotFields, 'metresPerUnit' | 'timeScale'>,
): Promise<Record<string, FolderFacts>> {
  const facts: Record<string, FolderFacts> = {};
  for (const sheet of sheets)
    for (const { input } of followersOf(sheet).flatMap(inputsOf)) {
      if (input.folder === null || facts[input.folder]) continue;
      const found = await reading.look(input.folder, { metresPerUnit, timeScale, upAxis: sheet.scene.scale.upAxis }, false);
      facts[input.folder] = 'problem' in found ? found : { key: found.key, gives: found.gives };
    }
  return facts;
}

/** The files of a folder that a pass reads. Throws `refused` when they are not those any more that it was planned with. */
export async function filesOfFolder(path: string, key: string, file: FileConvention): Promise<PassInputFiles> {
  const refuse = (message: string): RuddleError<'refused'> => new RuddleError('refused', message, { reason: 'input' });
  const found = await reading.look(path, file, true);
  if ('problem' in found) throw refuse(found.problem);
  if (found.key !== key) throw refuse(`The files in ${path} have changed since this run was started: start it anew.`);
  const frames = Object.fromEntries(Object.entries(found.files ?? {}).map(([frame, f]) => [frame, [{ ...f, checksum: null }]]));
  return { folder: path, gives: found.gives, frames };
}
