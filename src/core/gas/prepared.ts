import { type Covers, type Extents, type PlacedSource } from '#core/flow';
import type { Form, Picture } from '#core/geometry';
import type { KernelTeam, Level, Window } from '#core/grid';
import type { Vec3 } from '#core/math';
import type { EmissionNoise } from './emission-noise';
import { type GasFields } from './fields';
import { type GasOptions, type GasSource } from './options';

/** A source as a run holds it. */
export interface PreparedSource {
  readonly source: GasSource;
  /** Whether its shape moves. */
  readonly travels: boolean;
  /** It as it is at a moment. */
  readonly at: (time: number) => PlacedSource<GasSource>;
  readonly form: Form;
  readonly picture: Picture | null;
  /** Seconds in which it emits. */
  readonly from: number;
  readonly to: number;
  /** Of a source whose shape does not move: in the limit box, and what of it counts in the present window. */
  extents: Extents | null;
  covers: Covers | null;
  readonly stirred: readonly [Float32Array, Float32Array] | null;
  /** What is left of contact, 0 to 1, by world voxel; null: it leaves no trail. */
  readonly trail: Map<number, number> | null;
}

/** What sources give to. */
export interface Emitting {
  readonly team: KernelTeam;
  readonly level: Level;
  readonly limit: Window;
  readonly fields: GasFields;
  readonly options: GasOptions;
  /** Entries of a field. */
  readonly size: number;
  readonly noise: EmissionNoise;
  /** How far the wind has carried what goes with the air, metres. */
  readonly drift: Vec3;
}
