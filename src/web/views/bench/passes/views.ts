import type { ReactElement } from 'react';
import { CHANNEL_LOOK, type LookChannel } from '#core/look';
import type { FollowerKind } from '#core/shot';
import type { PassRunDto } from '#protocol';
import { isReady } from '../frames/frame-store';
import { ParticlesPicture } from './particles-picture';
import type { PictureProps } from './picture-props';
import { arePointsReady } from './points-store';
import { isSkinReady } from '../surface/mesh-store';
import { SurfacePicture } from '../surface/surface-picture';
import { StillsPicture } from './stills-picture';
import { VolumesPicture } from './volumes-picture';

/** How a kind of pass is looked at. */
interface PassView {
  readonly Picture: (props: PictureProps) => ReactElement;
  /** The channel that is shown, of those that there are. */
  readonly channelOf: (run: PassRunDto | null, wanted: string | null) => LookChannel;
  /** Whether a frame can be shown at once. */
  readonly isReady: (run: string, frame: number, channel: LookChannel) => boolean;
}

const channelOf = (run: PassRunDto | null, wanted: string | null): LookChannel => {
  const there = (run?.plan.gives.channels ?? []).filter((c): c is LookChannel => c in CHANNEL_LOOK);
  return there.find((c) => c === wanted) ?? there[0] ?? 'density';
};

/** A kind that is missing here does not compile. */
export const VIEWS = {
  resample: { Picture: VolumesPicture, channelOf, isReady },
  detail: { Picture: VolumesPicture, channelOf, isReady },
  held: { Picture: VolumesPicture, channelOf, isReady },
  fed: { Picture: VolumesPicture, channelOf, isReady },
  retime: { Picture: VolumesPicture, channelOf, isReady },
  particles: { Picture: ParticlesPicture, channelOf: () => 'density', isReady: arePointsReady },
  refill: { Picture: ParticlesPicture, channelOf: () => 'density', isReady: arePointsReady },
  surface: { Picture: SurfacePicture, channelOf: () => 'density', isReady: isSkinReady },
  stills: { Picture: StillsPicture, channelOf: () => 'density', isReady: () => true },
} as const satisfies Record<FollowerKind, PassView>;
