import {
  FIELD_KINDS,
  type ForceFieldSettings,
  type Group,
  type Path,
  type SolveSettings,
  type ShapeSettings,
  type SolidSettings,
  type SourceSettings,
  forceFieldSchema,
  putAtPath,
  solidSchema,
  solveOf,
  schemaOfSource,
  solveKindOf,
} from '#core/shot';
import { navigate, useSheet } from '#web/state';
import { useSelection } from '../view/selection';

/** Lists of things that stand in the yard: sources, solids, and the forces that have a region. */
export type ItemGroup = 'sources' | 'solids' | 'fields';
export type Item = SourceSettings | SolidSettings | ForceFieldSettings;
export type FieldKind = keyof typeof FIELD_KINDS;

interface ItemKind {
  readonly one: string;
  readonly title: string;
  /** Where the list lies in the settings, and the group whose sheet shows it. */
  readonly list: Path;
  readonly group: Group;
}

export const ITEM_KINDS: Readonly<Record<ItemGroup, ItemKind>> = {
  sources: { one: 'source', title: 'Source', list: ['sources'], group: 'sources' },
  solids: { one: 'solid', title: 'Solid', list: ['solids'], group: 'solids' },
  fields: { one: 'force', title: 'Force', list: ['forces', 'fields'], group: 'forces' },
};

export const itemsOf = (settings: SolveSettings, group: ItemGroup): readonly Item[] =>
  group === 'fields' ? settings.forces.fields : settings[group];

/** The list that a group's sheet shows; null: it has none. */
export const listOf = (group: string | null): ItemGroup | null =>
  (Object.keys(ITEM_KINDS) as ItemGroup[]).find((k) => ITEM_KINDS[k].group === group) ?? null;

const withItems = (settings: SolveSettings, group: ItemGroup, items: readonly unknown[]): SolveSettings =>
  putAtPath(settings, ITEM_KINDS[group].list, items) as SolveSettings;

const solveNow = (): SolveSettings => solveOf(useSheet.getState().settings);

function append(group: ItemGroup, item: Item): void {
  const { editSolve } = useSheet.getState();
  const items = itemsOf(solveNow(), group);
  if (!editSolve((s) => withItems(s, group, [...itemsOf(s, group), item]))) return;
  navigate({ group: ITEM_KINDS[group].group }, { replace: true });
  useSelection.getState().select({ group, index: items.length });
}

/** A source of the sheet's kind. */
const newSource = (name: string, shape: unknown): SourceSettings => schemaOfSource(solveKindOf(solveNow())).parse({ name, shape });

/** Adds a source or a solid, opens and selects it. */
export function addItem(group: 'sources' | 'solids'): void {
  const name = `${ITEM_KINDS[group].title} ${String(itemsOf(solveNow(), group).length + 1)}`;
  append(group, group === 'sources' ? newSource(name, { kind: 'ball' }) : solidSchema.parse({ name, shape: { kind: 'box' } }));
}

/** Adds a force of a kind. */
export function addForce(kind: FieldKind): void {
  const same = solveNow().forces.fields.filter((f) => f.kind === kind).length;
  append('fields', forceFieldSchema.parse({ kind, name: `${FIELD_KINDS[kind]}${same > 0 ? ` ${String(same + 1)}` : ''}` }));
}

/** Adds imported geometry as a source or a solid. */
export function addImported(group: 'sources' | 'solids', shape: ShapeSettings, sheet: boolean): void {
  const file = shape.kind === 'mesh' ? shape.file : '';
  const name =
    file
      .replace(/\.[^.]+$/, '')
      .slice(0, 60)
      .trim() || ITEM_KINDS[group].title;
  const skin = Math.max(2 * solveNow().detail.voxelSize, 0.02);
  append(
    group,
    group === 'solids'
      ? { ...solidSchema.parse({ name, shape }), ...(sheet ? { body: 'thin' as const, thickness: skin } : {}) }
      : // A sheet has no inside to emit from.
        { ...newSource(name, shape), ...(sheet ? { shell: skin } : {}) },
  );
}

export function removeItem(group: ItemGroup, index: number): void {
  useSheet.getState().editSolve((s) =>
    withItems(
      s,
      group,
      itemsOf(s, group).filter((_item, n) => n !== index),
    ),
  );
  useSelection.getState().select(null);
}

/** Changes one item; what the change gives is laid over it. */
export function changeItem(
  group: ItemGroup,
  index: number,
  change: { name?: string; hidden?: boolean; shape?: unknown; velocity?: readonly number[] },
): void {
  useSheet.getState().editSolve((s) =>
    withItems(
      s,
      group,
      itemsOf(s, group).map((item, n) => (n === index ? { ...item, ...change } : item)),
    ),
  );
}
