import type { KernelTeam, Level } from '#core/grid';
import type { EdgeFaces } from './edges';
import type { FlowFields } from './fields';
import type { AdvectionName } from './options';

/** A scheme moves all velocity components, or a list of scalars, by dt. Registered by name below. */
export interface AdvectionScheme {
  readonly title: string;
  velocity(context: AdvectionContext): void;
  scalars(context: AdvectionContext, fields: readonly number[]): void;
}

export interface AdvectionContext<F extends FlowFields = FlowFields> {
  readonly team: KernelTeam;
  readonly level: Level;
  readonly fields: F;
  /** dt / h. */
  readonly c: number;
  /** Room for records of three pointers, 4 x 3 words. */
  readonly list: number;
}

/** The place of cells, where kernels take an axis for faces. */
const CELLS = 3;

function forwardVelocity({ team, level, fields: f, c }: AdvectionContext): void {
  [f.a, f.b, f.c].forEach((target, axis) => {
    team.launch('advectFaces', level.count, level.context, f.u, f.v, f.w, axis, target, c);
  });
}

function copyVelocity({ team, level, fields: f }: AdvectionContext, from: readonly number[]): void {
  [f.u, f.v, f.w].forEach((target, axis) => {
    team.launch('copyTiles', level.count, level.context, from[axis] ?? 0, target);
  });
}

function forwardScalars(
  { team, level, fields: f, c, list }: AdvectionContext,
  scalars: readonly number[],
  targets: readonly number[],
): void {
  const words = team.words(list, 3 * scalars.length);
  scalars.forEach((s, n) => {
    words.set([s, 0, targets[n] ?? 0], 3 * n);
  });
  team.launch('advectCells', level.count, level.context, f.u, f.v, f.w, list, scalars.length, c);
}

export const ADVECTION: Readonly<Record<AdvectionName, AdvectionScheme>> = {
  linear: {
    title: 'Linear semi-Lagrangian',
    velocity(context) {
      forwardVelocity(context);
      copyVelocity(context, [context.fields.a, context.fields.b, context.fields.c]);
    },
    scalars(context, scalars) {
      const { team, level, fields: f } = context;
      const targets = [f.a, f.b, f.c];
      forwardScalars(context, scalars, targets);
      scalars.forEach((s, n) => {
        team.launch('copyTiles', level.count, level.context, targets[n] ?? 0, s);
      });
    },
  },
  maccormack: {
    title: 'MacCormack with clamping',
    velocity(context) {
      const { team, level, fields: f, c } = context;
      forwardVelocity(context);
      const targets = [f.r, f.z, f.q];
      [f.a, f.b, f.c].forEach((forward, axis) => {
        team.launch('correctFaces', level.count, level.context, f.u, f.v, f.w, axis, forward, targets[axis] ?? 0, c);
      });
      copyVelocity(context, targets);
    },
    scalars(context, scalars) {
      const { team, level, fields: f, c, list } = context;
      const forward = [f.a, f.b, f.c];
      const targets = [f.r, f.z, f.q];
      forwardScalars(context, scalars, forward);
      const words = team.words(list, 3 * scalars.length);
      scalars.forEach((s, n) => {
        words.set([s, forward[n] ?? 0, targets[n] ?? 0], 3 * n);
      });
      team.launch('correctCells', level.count, level.context, f.u, f.v, f.w, list, scalars.length, c);
      scalars.forEach((s, n) => {
        team.launch('copyTiles', level.count, level.context, targets[n] ?? 0, s);
      });
    },
  },
  bfecc: {
    title: 'BFECC with clamping',
    velocity(context) {
      const { team, level, fields: f, c } = context;
      forwardVelocity(context);
      const sources = [f.u, f.v, f.w];
      const forward = [f.a, f.b, f.c];
      const errors = [f.r, f.z, f.q];
      for (const kernel of ['roundTripError', 'carryError'] as const) {
        sources.forEach((source, axis) => {
          team.launch(kernel, level.count, level.context, f.u, f.v, f.w, axis, source, forward[axis] ?? 0, errors[axis] ?? 0, c);
        });
      }
      copyVelocity(context, forward);
    },
    scalars(context, scalars) {
      const { team, level, fields: f, c } = context;
      const forward = [f.a, f.b, f.c];
      const errors = [f.r, f.z, f.q];
      forwardScalars(context, scalars, forward);
      for (const kernel of ['roundTripError', 'carryError'] as const) {
        scalars.forEach((source, n) => {
          team.launch(kernel, level.count, level.context, f.u, f.v, f.w, CELLS, source, forward[n] ?? 0, errors[n] ?? 0, c);
        });
      }
      scalars.forEach((s, n) => {
        team.launch('copyTiles', level.count, level.context, forward[n] ?? 0, s);
      });
    },
  },
  cubic: {
    title: 'Monotone cubic semi-Lagrangian',
    velocity(context) {
      const { team, level, fields: f, c } = context;
      const targets = [f.a, f.b, f.c];
      [f.u, f.v, f.w].forEach((source, axis) => {
        team.launch('advectCubic', level.count, level.context, f.u, f.v, f.w, axis, source, targets[axis] ?? 0, c);
      });
      copyVelocity(context, targets);
    },
    scalars(context, scalars) {
      const { team, level, fields: f, c } = context;
      const targets = [f.a, f.b, f.c];
      scalars.forEach((source, n) => {
        team.launch('advectCubic', level.count, level.context, f.u, f.v, f.w, CELLS, source, targets[n] ?? 0, c);
      });
      scalars.forEach((s, n) => {
        team.launch('copyTiles', level.count, level.context, targets[n] ?? 0, s);
      });
    },
  },
};

/** The second half of a reflection: `reflected` is carried by the velocity of the middle, which it replaces. */
export function carryReflected({ team, level, fields: f, c }: AdvectionContext, reflected: readonly number[]): void {
  [f.a, f.b, f.c].forEach((target, axis) => {
    team.launch('advectCubic', level.count, level.context, f.u, f.v, f.w, axis, reflected[axis] ?? 0, target, c);
  });
  [f.u, f.v, f.w].forEach((target, axis) => {
    team.launch('copyTiles', level.count, level.context, [f.a, f.b, f.c][axis] ?? 0, target);
  });
}

/** New velocities of the faces that sleeping tiles own, worked out before the old field is overwritten. */
export class EdgeVelocities {
  #faces = 0;
  #values = 0;
  #capacity = 0;
  readonly #counts = [0, 0, 0];
  #edges: EdgeFaces | null = null;

  constructor(private readonly team: KernelTeam) {}

  /** Takes over a new set of edge faces. */
  use(edges: EdgeFaces): void {
    const total = edges.owned.reduce((n, o) => n + o.length / 4, 0);
    if (total > this.#capacity) {
      // Grown with room to spare: the arena frees nothing.
      this.#capacity = total * 2;
      this.#faces = this.team.allocate(this.#capacity * 16);
      this.#values = this.team.allocate(this.#capacity * 4);
    }
    let at = 0;
    edges.owned.forEach((o, axis) => {
      this.team.words(this.#faces + at * 16, o.length).set(o);
      this.#counts[axis] = o.length / 4;
      at += o.length / 4;
    });
    this.#edges = edges;
  }

  advect(level: Level, f: FlowFields, c: number): void {
    let at = 0;
    for (const axis of [0, 1, 2]) {
      const n = this.#counts[axis] ?? 0;
      this.team.launch('advectFaceList', n, level.context, f.u, f.v, f.w, axis, this.#faces + at * 16, this.#values + at * 4, c);
      at += n;
    }
  }

  store(f: FlowFields, size: number): void {
    let at = 0;
    [f.u, f.v, f.w].forEach((pointer, axis) => {
      const n = this.#counts[axis] ?? 0;
      const field = this.team.floats(pointer, size);
      const values = this.team.floats(this.#values + at * 4, n);
      const owned = this.#edges?.owned[axis as 0 | 1 | 2] ?? new Int32Array(0);
      for (let m = 0; m < n; m++) field[owned[4 * m] ?? 0] = values[m] ?? 0;
      at += n;
    });
  }

  subtractGradient(level: Level, f: FlowFields): void {
    let at = 0;
    const strides = [1, level.sx, level.sp];
    [f.u, f.v, f.w].forEach((pointer, axis) => {
      const n = this.#counts[axis] ?? 0;
      this.team.launch('subtractGradientList', n, this.#faces + at * 16, pointer, f.phi, strides[axis] ?? 1);
      at += n;
    });
  }
}
