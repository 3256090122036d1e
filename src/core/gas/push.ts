import { GRAVITY } from '#core/units';
import { type GasOptions } from './options';

/** Acceleration upwards of gas of a density that is `heat` kelvin above the ambient temperature, m/s^2: rise by heat less sinking by density. */
export function pushOf(
  { lift, liftLaw, ambient, sinking }: Pick<GasOptions['matter'], 'lift' | 'liftLaw' | 'ambient' | 'sinking'>,
  density: number,
  heat: number,
): number {
  const rise = liftLaw === 'ideal' ? (lift * GRAVITY * heat) / (ambient + heat) : lift * heat;
  return rise - sinking * density;
}
