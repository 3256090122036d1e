import Box from '@mui/material/Box';
import MenuItem from '@mui/material/MenuItem';
import Select from '@mui/material/Select';
import type { ReactElement } from 'react';
import { CHANNEL_LOOK, type LookChannel, isTint } from '#core/look';
import type { PassRunDto } from '#protocol';
import { navigate } from '#web/state';
import { useColours } from '#web/ui';

/** Which of the channels that a pass kept is shown. */
export function ChannelPick({ run, channel }: { run: PassRunDto; channel: LookChannel }): ReactElement {
  const c = useColours();
  const there = run.plan.gives.channels.filter((name): name is LookChannel => name in CHANNEL_LOOK && !isTint(name));
  return (
    <Box
      sx={{
        position: 'absolute',
        right: 12,
        top: 12,
        zIndex: 2,
        bgcolor: c.panel,
        border: `1px solid ${c.line}`,
        borderRadius: 1.5,
        px: 1,
      }}
    >
      <Select
        variant="standard"
        disableUnderline
        value={there.includes(channel) ? channel : ''}
        inputProps={{ 'aria-label': 'Channel' }}
        onChange={(e) => navigate({ channel: e.target.value }, { replace: true })}
        sx={{ fontSize: 13 }}
      >
        {there.map((name) => (
          <MenuItem key={name} value={name}>
            {CHANNEL_LOOK[name].title}
          </MenuItem>
        ))}
      </Select>
    </Box>
  );
}
