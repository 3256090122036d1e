import type { ReactElement } from 'react';
import { PassViewport } from './pass-viewport';
import { usePassVolumes } from './use-pass-volumes';
import type { PictureProps } from './picture-props';
import { ChannelPick } from './channel-pick';

/** Volumes of a pass, drawn as the solve's are. */
export function VolumesPicture({ run, frame, stored, channel, moving }: PictureProps): ReactElement {
  const volumes = usePassVolumes(run, frame, stored, channel);
  const [first = null, ...beside] = volumes;
  return (
    <>
      <PassViewport frame={frame} volume={first} beside={beside} points={null} moving={moving} run={run} />
      {run && <ChannelPick run={run} channel={channel} />}
    </>
  );
}
