import { useMemo } from 'react';
import type { Box3 } from '#core/geometry';
import { type Settings, type ShapeSettings, defaultLimit } from '#core/shot';
import { useSheet } from '#web/state';
import type { ViewportScene } from '#web/viewport';
import type { ItemGroup } from './items';

/** What stands in the yard for some settings. */
export function sceneOf(settings: Settings): ViewportScene {
  const shapes = (group: ItemGroup): ShapeSettings[] => settings[group].flatMap((item) => (item.hidden ? [] : [item.shape]));
  return { solids: shapes('solids'), sources: shapes('sources'), limit: settings.bounds.limit ?? defaultLimit(settings) };
}

/** Solids, sources and the limit box of the sheet, with what is being dragged in its place. */
export function useYard(
  dragged: { readonly group: ItemGroup; readonly index: number; readonly shape: ShapeSettings } | null = null,
  box: Box3 | null = null,
): ViewportScene {
  const settings = useSheet((s) => s.settings);
  return useMemo(() => {
    const shapes = (group: ItemGroup): ShapeSettings[] =>
      settings[group].flatMap((item, n) =>
        item.hidden ? [] : [dragged?.group === group && dragged.index === n ? dragged.shape : item.shape],
      );
    return {
      solids: shapes('solids'),
      sources: shapes('sources'),
      limit: box ?? settings.bounds.limit ?? defaultLimit(settings),
    };
  }, [settings, dragged, box]);
}
