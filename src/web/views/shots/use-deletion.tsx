import { type ReactElement, useState } from 'react';
import { ApiError, api, queryClient, say, sayError } from '#web/state';
import { SureDialog } from '#web/ui';

interface Named {
  readonly id: string;
  readonly name: string;
}

const lookAnew = (): Promise<void> => queryClient.invalidateQueries({ queryKey: ['shots'] });

async function remove({ id, name }: Named, sure: boolean): Promise<void> {
  await api.deleteShot(id, sure);
  await lookAnew();
  const undo = async (): Promise<void> => {
    await api.restoreShot(id);
    await lookAnew();
  };
  say('info', `${name} is deleted, its caches are freed.`, { title: 'Undo', run: () => void undo().catch(sayError) });
}

/** Deletes shots, with a way back; those with approved caches only after asking once more. The dialog is to be shown by who deletes. */
export function useDeletion(): { readonly remove: (shot: Named) => void; readonly dialog: ReactElement | null } {
  const [asking, setAsking] = useState<{ readonly shot: Named; readonly why: string } | null>(null);
  return {
    remove: (shot) => {
      remove(shot, false).catch((error: unknown) => {
        if (error instanceof ApiError && error.data.fields['reason'] === 'approved') setAsking({ shot, why: error.message });
        else sayError(error);
      });
    },
    dialog: asking && (
      <SureDialog
        title={`Delete ${asking.shot.name} with its approved caches?`}
        action="Delete anyway"
        onSure={() => void remove(asking.shot, true).catch(sayError)}
        onClose={() => setAsking(null)}
      >
        {asking.why} The shot and its caches can be brought back until their space is needed.
      </SureDialog>
    ),
  };
}
