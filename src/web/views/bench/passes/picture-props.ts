import type { LookChannel } from '#core/look';
import type { PassRunDto } from '#protocol';

/** What a pass's picture is drawn from. */
export interface PictureProps {
  readonly run: PassRunDto | null;
  readonly frame: number | null;
  readonly stored: ReadonlySet<number>;
  readonly channel: LookChannel;
  readonly moving: boolean;
}
