import type * as z from 'zod';
import { sourceSchema } from './items';
import { type Path, putAtPath } from './paths';
import { type LiquidSolve, type LiquidSourceSettings, liquidSolveSchema, liquidSourceSchema } from './liquid-settings';
import { type GasSolve, type GasSourceSettings, solveSchema } from './solve-settings';

/** The solve that a shot begins with: of gas, or of liquid. */
export type SolveSettings = GasSolve | LiquidSolve;
export type SourceSettings = GasSourceSettings | LiquidSourceSettings;
export type SolveKind = 'gas' | 'liquid';

export const isSolveKind = (kind: string): kind is SolveKind => kind === 'gas' || kind === 'liquid';

export const isLiquid = (solve: SolveSettings): solve is LiquidSolve => 'transfer' in solve.matter;
export const solveKindOf = (solve: SolveSettings): SolveKind => (isLiquid(solve) ? 'liquid' : 'gas');

/** The schema of a solve's sheet, and of its sources. */
export const schemaOfSolve = (kind: SolveKind): z.ZodType<SolveSettings> => (kind === 'liquid' ? liquidSolveSchema : solveSchema);
export const schemaOfSource = (kind: SolveKind): z.ZodType<SourceSettings> => (kind === 'liquid' ? liquidSourceSchema : sourceSchema);

/** A solve with another value at a path; not looked through. */
export const withValue = <S extends SolveSettings>(solve: S, path: Path, value: unknown): S => putAtPath(solve, path, value) as S;

/** Settings of a solve that were changed, looked through by the schema of its kind; null: they would not be valid. */
export function parsedSolve(kind: SolveKind, settings: unknown): SolveSettings | null {
  const result = schemaOfSolve(kind).safeParse(settings);
  return result.success ? result.data : null;
}
