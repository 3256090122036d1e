import Button from '@mui/material/Button';
import { type ReactElement, useState } from 'react';
import { useColours } from '#web/ui';
import { BesidePicture, useSides } from './beside-picture';
import { PassViewport } from './pass-viewport';
import { usePassVolumes } from './use-pass-volumes';
import type { PictureProps } from './picture-props';
import { ChannelPick } from './channel-pick';

/** Volumes of a pass, drawn as the solve's are. */
export function VolumesPicture({ run, frame, stored, channel, moving }: PictureProps): ReactElement {
  const c = useColours();
  const [beside, setBeside] = useState(false);
  const volumes = usePassVolumes(run, frame, stored, channel);
  const sides = useSides(run);
  const [first = null, ...others] = volumes;
  return (
    <>
      {beside && sides.length > 1 ? (
        <BesidePicture sides={sides} frame={frame} channel={channel} moving={moving} />
      ) : (
        <PassViewport frame={frame} volume={first} beside={others} points={null} moving={moving} run={run} />
      )}
      {run && <ChannelPick run={run} channel={channel} />}
      {sides.length > 1 && (
        <Button
          variant="outlined"
          color="inherit"
          size="small"
          aria-pressed={beside}
          onClick={() => setBeside(!beside)}
          sx={{ position: 'absolute', right: 150, top: 14, zIndex: 2, bgcolor: c.panel, borderColor: beside ? c.selected : c.line }}
        >
          Beside what it reads
        </Button>
      )}
    </>
  );
}
