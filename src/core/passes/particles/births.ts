import { type Form, type FormMaker, formOf, pinned, poseOf } from '#core/geometry';
import { hash3, mulberry32 } from '#core/math';
import { atMoment } from '#core/moves';
import type { Births, Cloud } from '../flight';
import type { Birthplace, ParticlesBody } from './body';
import { measureOf, seed } from './seeds';

/** Births on sources and solids, spread evenly over all of them while they emit. */
export class PlaceBirths implements Births {
  readonly #forms: readonly Form[];
  readonly #measures = new Map<number, ReturnType<typeof measureOf>>();

  constructor(
    private readonly body: ParticlesBody,
    maker: FormMaker,
  ) {
    this.#forms = body.places.map((p) => formOf(p.shape, maker, 0.05, 0.2));
  }

  bear(frame: number, cloud: Cloud): void {
    const { settings, places, frameSeconds, firstFrame, framesPerSecond } = this.body;
    const before = cloud.count;
    // Halfway: where a moving source is in the middle of the step.
    const moment = { time: (frame - 0.5 - firstFrame) / framesPerSecond, firstFrame, framesPerSecond };
    const open = places
      .map((place, n) => ({ place, n, now: moved(place, moment, this.body), part: partOf(place, frame) }))
      .filter(({ now, part }) => part.share > 0 && ((now.density ?? 0) !== 0 || (now.heat ?? 0) !== 0 || (now.fuel ?? 0) !== 0));
    const measured = open.map((o) => {
      const form = this.#forms[o.n] as Form;
      const pose = poseOf(o.now.shape, moment.time, firstFrame, framesPerSecond);
      const distance = form.distance(pose);
      const box = form.bounds(pose);
      const still = Object.keys(o.place.moves).length === 0 && o.place.shape.kind !== 'mesh';
      const known = still ? this.#measures.get(o.n) : undefined;
      const measure = known ?? measureOf(distance, box);
      if (still) this.#measures.set(o.n, measure);
      return { ...o, distance, box, measure, size: settings.birth === 'volume' ? measure.volume : measure.area };
    });
    const all = measured.reduce((sum, m) => sum + m.size, 0);
    const wanted = settings.perSecond * frameSeconds;
    cloud.reserve(before + Math.ceil(wanted));
    for (const m of measured) {
      const random = mulberry32(hash3(frame, m.n, settings.seed, 0x5eed));
      const share = m.part.share;
      seed(m.distance, m.box, settings.birth, m.measure, (wanted * share * m.size) / all, random, (x, y, z) => {
        // Never 0: those below are born on the way.
        const age = -Math.max(1e-6, (m.part.ago + random() * share) * frameSeconds);
        const limit = settings.life * (1 + settings.lifeSpread * (2 * random() - 1));
        cloud.reserve(cloud.count + 1);
        const n = cloud.count++;
        cloud.places.set([x, y, z, age], 4 * n);
        cloud.motions.set([0, 0, 0, limit], 4 * n);
      });
    }
  }
}

/** Of a step that ends at a frame, the part in which a place emits: how much of it, and how much lies after. A source acts from the step to its first frame on. */
function partOf({ during }: Birthplace, frame: number): { readonly share: number; readonly ago: number } {
  if (!during) return { share: 1, ago: 0 };
  const { from, to, every } = during;
  const begin = Math.max(frame - every, from === null ? -Infinity : from - 1);
  const end = Math.min(frame, to ?? Infinity);
  return { share: Math.max(0, end - begin) / every, ago: (frame - end) / every };
}

function moved(place: Birthplace, moment: Parameters<typeof atMoment>[2], { followed }: ParticlesBody): Birthplace {
  if (Object.keys(place.moves).length === 0) return place;
  const now = atMoment(place, place.moves, moment, followed);
  return { ...now, shape: pinned(place.shape, now.shape, place.turnsAbout) };
}
