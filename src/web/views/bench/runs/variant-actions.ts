import { api, navigate, queryClient, say, useSheet, sayError } from '#web/state';
import { useBench } from '../bench-context';

/** Does it, and says it when it could not be done. */
const attempt = (work: () => Promise<void>) => (): void => void work().catch(sayError);

/** What can be done with the variant on the sheet. What was typed last is stored before. */
export function useVariantActions() {
  const { shot, variant } = useBench();
  const flush = useSheet((s) => s.flush);
  const goTo = (id: string | null): void => navigate({ variant: id, run: null, frame: null, with: null });
  return {
    show: (id: string): void => void flush().then(() => goTo(id)),
    duplicate: attempt(async () => {
      await flush();
      const { id } = await api.duplicate(variant.id);
      await queryClient.invalidateQueries({ queryKey: ['shot'] });
      goTo(id);
      say('success', `${variant.name} is duplicated.`);
    }),
    remove: attempt(async () => {
      await flush();
      await api.deleteVariant(variant.id);
      await queryClient.invalidateQueries({ queryKey: ['shot'] });
      goTo(shot.variants.find((v) => v.id !== variant.id)?.id ?? null);
      const undo = attempt(async () => {
        await api.restoreVariant(variant.id);
        navigate({ variant: variant.id });
      });
      say('info', `${variant.name} is deleted, its caches are freed.`, { title: 'Undo', run: undo });
    }),
    revert: (): void => {
      const { edit, base, stepBack } = useSheet.getState();
      if (edit(() => base)) say('info', 'The draft is taken back.', { title: 'Undo', run: stepBack });
    },
  };
}
