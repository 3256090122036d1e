import { RuddleError, toErrorData } from '#core/errors';
import { contactSlice, forceArrows, gapOf, shotTime, timeOfFrame } from '#core/flow';
import { pinned, poseOf } from '#core/geometry';
import { type AnyGeometry, formsOf, pointsOf, shownGeometry } from '#core/mesh';
import { geometryOf } from '#core/shot';
import { atMoment } from '#core/moves';
import type { ShapeAnswers, ShapeQuestion, ShapeReply, ShapeRequest } from '#protocol';
import { createGeometryCache } from './geometry-cache';

/** The body of the worker that answers questions about shapes: what imported geometry looks like, and where matter meets it. */
export function shapesMain(
  send: (reply: ShapeReply) => void,
  load: (hash: string) => Promise<AnyGeometry>,
): (request: ShapeRequest) => void {
  const known = createGeometryCache(load);
  const answer = async (q: ShapeQuestion): Promise<ShapeAnswers[ShapeQuestion['kind']]> => {
    if (q.kind === 'shown') {
      const geometry = await known.get(q.hash);
      if (geometry.kind === 'picture') throw new RuddleError('not-found', 'A picture has no shape.', { what: q.hash });
      return shownGeometry(geometry);
    }
    const forms = formsOf(await known.all(geometryOf(q.plan)));
    const { options } = q.plan;
    const time = timeOfFrame(q.frame, options);
    if (q.kind === 'slice') return contactSlice(options, forms, time, q.axis, q.part);
    if (q.kind === 'forces') return forceArrows(options, forms, time, q.axis, q.part);
    const solid = options.solids[q.solid];
    const stored = solid?.shape.kind === 'mesh' ? await known.get(solid.shape.geometry) : null;
    const geometry = stored && stored.kind !== 'picture' ? shownGeometry(stored) : null;
    if (!solid || geometry?.kind !== 'mesh')
      throw new RuddleError('not-found', 'Only imported solids have a visible shape of their own.', { what: 'gap' });
    const { firstFrame, framesPerSecond, timeScale } = options;
    const moment = { time: shotTime(time, options), firstFrame, framesPerSecond: framesPerSecond * timeScale };
    const shape = pinned(solid.shape, atMoment(solid, solid.moves, moment, options.followed).shape, solid.turnsAbout);
    const pose = poseOf(shape, moment.time, moment.firstFrame, moment.framesPerSecond);
    if (pose.shape.kind !== 'mesh') throw new RuddleError('internal', 'A mesh became another shape.', { where: 'gap' });
    return gapOf(options, forms, time, q.solid, pointsOf(geometry, { ...pose, shape: pose.shape }));
  };
  // One after the other: each may take all the time there is.
  let chain = Promise.resolve();
  return ({ id, question }) => {
    chain = chain.then(async () => {
      try {
        send({ id, answer: await answer(question) });
      } catch (error) {
        send({ id, error: toErrorData(error) });
      }
    });
  };
}
