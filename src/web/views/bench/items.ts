import { type Settings, solidSchema, sourceSchema } from '#core/shot';
import { navigate, useSheet } from '#web/state';
import { useSelection } from './selection';

export type ItemGroup = 'sources' | 'solids';

export const ITEM_KINDS = {
  sources: {
    one: 'source',
    title: 'Source',
    schema: sourceSchema,
    fresh: (name: string) => sourceSchema.parse({ name, shape: { kind: 'ball' } }),
  },
  solids: {
    one: 'solid',
    title: 'Solid',
    schema: solidSchema,
    fresh: (name: string) => solidSchema.parse({ name, shape: { kind: 'box' } }),
  },
} as const;

/** Adds a source or a solid, opens and selects it. */
export function addItem(group: ItemGroup): void {
  const { edit, settings } = useSheet.getState();
  const index = settings[group].length;
  const kind = ITEM_KINDS[group];
  if (!edit((s): Settings => ({ ...s, [group]: [...s[group], kind.fresh(`${kind.title} ${String(index + 1)}`)] }))) return;
  navigate({ group }, { replace: true });
  useSelection.getState().select({ group, index });
}

export function removeItem(group: ItemGroup, index: number): void {
  useSheet.getState().edit((s): Settings => ({ ...s, [group]: s[group].filter((_item, n) => n !== index) }));
  useSelection.getState().select(null);
}

/** Changes one item; what the change gives is laid over it. */
export function changeItem(group: ItemGroup, index: number, change: { name?: string; hidden?: boolean; shape?: unknown }): void {
  useSheet.getState().edit((s): Settings => ({ ...s, [group]: s[group].map((item, n) => (n === index ? { ...item, ...change } : item)) }));
}
