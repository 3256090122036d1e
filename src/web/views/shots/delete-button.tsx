import IconButton from '@mui/material/IconButton';
import Tooltip from '@mui/material/Tooltip';
import type { ReactElement } from 'react';
import { Icon } from '#web/ui';

export const DeleteButton = ({ name, onDelete }: { name: string; onDelete: () => void }): ReactElement => (
  <Tooltip title="Delete this shot and free its caches; both can be undone">
    <IconButton size="small" aria-label={`Delete ${name}`} onClick={onDelete}>
      <Icon name="delete" size={15} />
    </IconButton>
  </Tooltip>
);
