import type { FrameGrids, ParticleColumns } from '#core/formats';
import type { FormMaker, Picture } from '#core/geometry';
import type { FrameFacts, PassPlan } from '#core/pass';
import type { InputRole } from '#core/shot';
import type { Clock, KernelTeam } from '#core/grid';

/** Frames of a cache. */
export interface PassReader {
  /** A frame, part by part; only the channels that are wanted. Throws when a file is damaged. */
  readonly read: (frame: number, wanted?: (channel: string) => boolean) => readonly FrameGrids[];
  /** The particles of a frame, with further columns where they have them. Throws when the file is damaged. */
  readonly points: (frame: number, more?: readonly string[]) => ParticleColumns;
}

/** What a pass is given to work with: a reader of what its frames are made from, too. Nothing of the machine is known here but its clock and its threads. */
export interface PassJob<Body> extends PassReader {
  readonly plan: PassPlan<string, Body>;
  /** What it reads beside, by role. */
  readonly beside: (role: InputRole) => PassReader;
  readonly forms: FormMaker;
  /** Pictures that emission is masked by, by their fingerprint. */
  readonly pictures: (hash: string) => Picture;
  /** Threads of a pass whose frames follow each other. */
  readonly team: () => KernelTeam;
  readonly clock: Clock;
  /** Says that work goes on: to be called in long loops that launch no kernels. */
  readonly alive: () => void;
  /** Offers a state that a frame is on its way from, when one is due: after a frame of the pre-roll, which is no frame of its own. */
  readonly keep: (frame: number, state: () => Uint8Array<ArrayBuffer>, memoryBytes: number) => void;
  /** A picture of 8 bits a colour, red, green and blue, as PNG. */
  readonly png: (rgb: Uint8Array, width: number, height: number) => Promise<Uint8Array<ArrayBuffer>>;
  /** Identifier of a frame's file, so that the same run writes the same bytes. */
  readonly uuid: (part: number, frame: number) => string;
  /** What `state` gave after a frame, to go on from. */
  readonly from: Uint8Array | null;
}

/** A file of one part, with what the page looks at of it. */
export interface PassPart {
  readonly extension: 'vdb' | 'ply' | 'png' | 'obj' | 'glb';
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Not packed; empty for pictures: they are looked at as they are. */
  readonly previews: readonly { readonly channel: string; readonly bytes: Uint8Array<ArrayBuffer> }[];
}

export interface PassOutput<Report extends FrameFacts> {
  readonly report: Report;
  readonly parts: readonly PassPart[];
  /** To go on from after this frame; null: it needs none. */
  readonly state: (() => Uint8Array<ArrayBuffer>) | null;
}

/**
 * Computes frames one by one. `wanted`: its files too; else it only passes through (a frame that is stored, on the way to one that is not). A pass whose
 * frames follow each other is asked for all of them in order.
 */
export interface PassRunner<Report extends FrameFacts> {
  frame(frame: number, wanted: boolean): Promise<PassOutput<Report>>;
}

export type PassWorker<Body, Report extends FrameFacts> = (job: PassJob<Body>) => PassRunner<Report>;
