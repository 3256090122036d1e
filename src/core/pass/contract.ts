import type { Unit } from '#core/units';
import type { InputRole, Rung, ShotFields, SolveSettings } from '#core/shot';

/** All that code which knows no kind may read of a frame's report. */
export interface FrameFacts {
  readonly frame: number;
  /** Computing time by stage, seconds. */
  readonly seconds: Readonly<Record<string, number>>;
  readonly totalSeconds: number;
  /** Seconds of it in which other programs held the cores; reports of older runs and of browsers have none. */
  readonly waitedSeconds?: number;
  /** Memory that computing it took, bytes. */
  readonly memoryBytes: number;
  /** What the pass's work is counted in: voxels, particles, samples. */
  readonly elements: number;
  /** What its file is counted in: voxels, particles, pixels. */
  readonly kept: number;
}

/** Frames of a pass, first and last; `every` of 2: every other one, from the first. */
export interface FrameList {
  readonly first: number;
  readonly last: number;
  readonly every: number;
}

export const listFrames = ({ first, last, every }: FrameList): number[] =>
  Array.from({ length: Math.max(0, Math.floor((last - first) / every) + 1) }, (_v, n) => first + n * every);

/** How files of a cache are written: scene units, seconds of the shot, the axis that is up. */
export interface FileConvention {
  readonly metresPerUnit: number;
  readonly upAxis: 'y' | 'z';
  readonly timeScale: number;
}

/** What is known of a cache by whoever reads it. */
export interface CacheFacts {
  readonly output: 'vdb' | 'ply' | 'picture' | 'mesh';
  /** Metres, of each of its parts (the bounds of a solve); none of what has no voxels. */
  readonly voxelSizes: readonly number[];
  readonly channels: readonly string[];
  readonly file: FileConvention;
  readonly frames: FrameList;
  /** Of particles of a liquid: how far apart they lie, metres. */
  readonly spacing?: number;
  /** Of meshes: what their files are. */
  readonly extension?: 'ply' | 'obj' | 'glb';
}

/** What a run of a pass does, resolved: everything that changes its result, and nothing else. */
export interface PassPlan<Kind extends string = string, Body = unknown> {
  readonly pass: Kind;
  readonly rung: Rung;
  readonly frames: FrameList;
  /** Run keys of what it reads: what is stale above makes it stale by itself. */
  /** `folder`: where its files lie, of what is no run; changes no result. */
  readonly inputs: readonly { readonly role: InputRole; readonly key: string; readonly folder?: string }[];
  readonly body: Body;
  /** What its own cache is like. */
  readonly gives: CacheFacts;
}

export interface ResolveContext {
  readonly shot: ShotFields;
  /** The shot's solve, with the scene. */
  readonly solve: SolveSettings;
  readonly rung: Exclude<Rung, 'sketch'>;
  /** What its frames are made from. */
  readonly input: CacheFacts;
  /** What else it reads, by role; all of them are there. */
  readonly beside: Readonly<Partial<Record<InputRole, CacheFacts>>>;
}

/** What a pass can read in one role. */
export interface Readable {
  readonly accepts: readonly CacheFacts['output'][];
  /** Channels that it must have, by what it is. */
  readonly needs: Readonly<Partial<Record<CacheFacts['output'], readonly string[]>>>;
}

/** Seconds by what a pass's work is counted in, bytes by what its files are. */
export interface Rates {
  readonly secondsPerElement: number;
  readonly bytesPerKept: number;
}

/** What a kind makes of its settings: the body of its plan, and what its cache will be like. */
export interface ResolvedPass<Body> {
  readonly body: Body;
  readonly frames: FrameList;
  readonly gives: Omit<CacheFacts, 'frames'>;
}

/** Frames of a run, and what lists show of it. */
export interface RunRange extends FrameList {
  readonly preRoll: number;
  /** Metres; 1 where there are no voxels. */
  readonly voxelSize: number;
}

/** What code that handles runs (engine, queue, database, caches) asks of every kind, by its plan and its reports. */
export interface PassKindOps<Plan, Report> {
  /** `any`: each frame by itself, on all cores. `sequential`: each needs the one before. */
  readonly order: 'any' | 'sequential';
  /** The solver's version, raised by hand when the same plan gives another result. */
  readonly version: string;
  /** Run key: a hash of everything that decides about the frames, the version included. */
  readonly key: (plan: Plan) => string;
  /** What its cache is like. */
  readonly gives: (plan: Plan) => CacheFacts;
  readonly range: (plan: Plan) => RunRange;
  /** The same plan to another last frame: its frames stay what they are. */
  readonly upTo: (plan: Plan, lastFrame: number) => Plan;
  /** Own frames at the end of its range that a longer one would change: to be computed anew with it. */
  readonly unsettled: (plan: Plan) => readonly number[];
  /** Fingerprints of the imported geometry that it needs. */
  readonly geometry: (plan: Plan) => readonly string[];
  /** What the files of one of its parts are called by: `solve`, `solve-2`. */
  readonly partName: (plan: Plan, part: number) => string;
  /** What a frame has for a pass that reads it: voxels, particles. */
  readonly kept: (report: Report) => number;
}

/** A kind of pass that reads another, as far as no machine is needed for it. Its settings' schema is in core/shot; how it is computed in workers/passes. */
export interface PassDefinition<Own, Body, Report extends FrameFacts> extends Readable {
  readonly title: string;
  /** One line: what it makes of what. */
  readonly about: string;
  /** Raised by hand when the same body gives another result: src/workers/golden.test.ts fails where it was not. A recompilation alone changes no key. */
  readonly version: number;
  /** What of a body decides about its frames: no names that only people read, no last frame. */
  readonly essence: (body: Body) => unknown;
  /** How many frames of its input after its own one it reads, where it reads them: at the end of the range they are missing. */
  readonly ahead?: (body: Body) => number;
  /** `any`: each frame by itself, on all cores. `sequential`: each needs the one before. */
  readonly order: 'any' | 'sequential';
  /** What its cache is made of. */
  readonly output: CacheFacts['output'];
  /** What it reads beside that which its frames are made from, by role. */
  readonly beside?: Readonly<Partial<Record<InputRole, Readable>>>;
  /** Throws `settings-invalid` when it cannot be. */
  readonly resolve: (context: ResolveContext, own: Own) => ResolvedPass<Body>;
  /** Fingerprints of the imported geometry that it needs. */
  readonly geometry: (body: Body) => readonly string[];
  /** What the files of its parts are called by behind its kind, where they are not numbered: the first has none. */
  readonly parts?: readonly string[];
  /** What a file beside its frames says of them for other programs, `<kind>.json`; without: there is none. */
  readonly index?: (plan: PassPlan<string, Body>) => Readonly<Record<string, unknown>>;
  /** Frames of what it reads that must be there, of those that it has, where they are not its own; of what it reads beside always its own. */
  readonly reads?: (body: Body, given: FrameList) => readonly number[];
  /** The frame of what it reads that a frame is made from, where they are not the same. */
  readonly source?: (body: Body, frame: number) => number;
  /** Of kinds that can be looked at before they are started, over a few frames: how many frames earlier they begin, and the body that begins there. */
  readonly sketch?: {
    readonly lead: number;
    /** How many frames it shows, where they are not eight. */
    readonly frames?: number;
    readonly from: (body: Body, frame: number) => Body;
    /** The frame at or before one at which it can begin, where it cannot at any. */
    readonly at?: (body: Body, frame: number) => number;
  };
  /** Times that it is finer than what it reads, of kinds that are. */
  readonly factor?: (body: Body) => number;
  readonly cost: {
    /** Elements of a frame, from those of the same frame of what it reads and of all that it reads beside; `age` counts frames from its first. */
    readonly elements: (body: Body, input: number, age: number, beside: number) => number;
    /** What its own frame holds, and the next pass reads. */
    readonly kept: (body: Body, input: number, age: number) => number;
    /** Before anything was measured on this machine: of one core, from docs/methods/passes.md. */
    readonly rates: Rates;
    readonly memoryBytes: (body: Body, input: number, beside: number) => number;
  };
  /** One line of a frame's figures. */
  readonly line: (report: Report) => string;
  /** Why nothing is seen of a frame, and what to do; null: there is something to see. */
  readonly nothing: (report: Report) => string | null;
  /** Numbers of a report that are worth a curve over the frames; the first says how the pass did in one number. */
  readonly figures: readonly PassFigure<Report>[];
  /** What a run's reports show that somebody should know. */
  readonly checks: (own: Own, reports: readonly Report[]) => readonly PassFinding[];
  /** A frame's energy over wavenumber, of what it reads and of what it made. */
  readonly spectra?: (report: Report) => PassSpectra | null;
}

export interface PassFigure<Report> {
  readonly id: string;
  readonly title: string;
  readonly unit: Unit | 'percent';
  /** null: this frame has none. */
  readonly of: (report: Report) => number | null;
}

/** What is wrong, and where; why it matters and what to do about it. */
export interface PassFinding {
  readonly id: string;
  readonly title: string;
  readonly text: string;
  /** Changes of the pass's settings that would help, each one press. */
  readonly remedies?: readonly PassRemedy[];
}

/** A setting of a pass, and what it is to be. */
export interface PassRemedy {
  readonly label: string;
  readonly path: readonly (string | number)[];
  readonly value: unknown;
}

export interface PassSpectra {
  /** Metres; the wave of number n (from 1 on) is this long, over n. */
  readonly length: number;
  readonly base: readonly number[];
  readonly fine: readonly number[];
}
