import { PREVIEW_POINTS, pointsPreview, writePly } from '#core/formats';
import { type Flight, type FlownReport, type VelocityPart, activeOf } from '#core/passes';
import type { PassJob, PassOutput, PassReader } from './contract';

const velocity = (channel: string): boolean => channel === 'vel';

/** Velocities of all parts at a frame. */
const gasAt = ({ read }: PassReader, frame: number): VelocityPart[] =>
  read(frame, velocity).flatMap(({ voxelSize, grids }) => grids.map((grid) => ({ voxelSize, grid })));

/** Frame after frame of particles that a cached gas carries. `most`: particles that a frame will have, for what share of them is looked at. */
export class FlownFrames {
  #at: number | null = null;
  readonly #every: number;

  constructor(
    private readonly job: Pick<PassJob<unknown>, 'plan' | 'clock'>,
    private readonly flight: Flight,
    private readonly gas: PassReader,
    most: number,
  ) {
    // The same share in every frame, so that what is looked at does not flicker.
    this.#every = Math.max(1, Math.ceil(most / PREVIEW_POINTS));
  }

  /** `goOn`: told of the frame before, when that was not computed here. */
  frame(frame: number, wanted: boolean, goOn: (before: number) => void = () => undefined): PassOutput<FlownReport> {
    const { flight } = this;
    const { clock, plan } = this.job;
    const { frames, gives } = plan;
    const began = clock();
    if (this.#at === null && frame > frames.first) {
      flight.goOn(gasAt(this.gas, frame - frames.every));
      goOn(frame - frames.every);
    }
    const gas = gasAt(this.gas, frame);
    const loaded = clock();
    const counts = frame === frames.first ? flight.begin(frame, gas) : flight.step(frame, gas);
    this.#at = frame;
    const done = clock();
    const { cloud } = flight;
    const parts = wanted
      ? [
          {
            extension: 'ply' as const,
            bytes: writePly(cloud, gives.file),
            previews: [{ channel: 'points', bytes: pointsPreview(cloud, this.#every) }],
          },
        ]
      : [];
    const report = {
      frame,
      seconds: { reading: loaded - began, carrying: done - loaded, writing: clock() - done },
      totalSeconds: clock() - began,
      memoryBytes: cloud.bytes + gas.reduce((n, p) => n + p.grid.values.byteLength * (1 + 8 / 3), 0),
      elements: cloud.count + gas.reduce((n, p) => n + activeOf(p.grid), 0),
      kept: cloud.count,
      count: cloud.count,
      ...counts,
    };
    return { report, parts, state: () => flight.state() };
  }
}
