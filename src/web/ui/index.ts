export { makeTheme, type Colours } from './theme';
export { useColours } from './use-colours';
export { Gauge } from './gauge';
export { StateGlyph, stateTitle } from './state-glyph';
export { QuietButton } from './quiet-button';
export { NumberField } from './number-field';
export { Mark } from './mark';
export { Icon, type IconName } from './icon';
export { Loading, Problem, Empty } from './placeholders';
