import { createTheme, type Theme } from '@mui/material/styles';

export interface Colours {
  readonly page: string;
  readonly panel: string;
  readonly raised: string;
  readonly line: string;
  readonly text: string;
  readonly dim: string;
  /** Fill of the one primary action, with white text. */
  readonly primary: string;
  /** What is selected, as text and line. */
  readonly selected: string;
  readonly fresh: string;
  readonly warning: string;
  readonly failed: string;
}

export const colours: Readonly<Record<'dark' | 'light', Colours>> = {
  dark: {
    page: '#0F1719',
    panel: '#162125',
    raised: '#1D2B30',
    line: '#2B3D43',
    text: '#E9E3D8',
    dim: '#9FAAA8',
    primary: '#B5452F',
    selected: '#E8866D',
    fresh: '#5DB8AB',
    warning: '#DDA83A',
    failed: '#D58A9A',
  },
  light: {
    page: '#F3EEE5',
    panel: '#FBF8F2',
    raised: '#FFFFFF',
    line: '#D8CFC0',
    text: '#1B2629',
    dim: '#556366',
    primary: '#A03A27',
    selected: '#A03A27',
    fresh: '#1F6E64',
    warning: '#855B05',
    failed: '#8A3F52',
  },
};

/** What the viewport is drawn with. */
export interface GroundColours {
  readonly page: string;
  readonly line: string;
  readonly solid: string;
  readonly edge: string;
  readonly text: string;
  readonly selected: string;
  readonly fresh: string;
  readonly warning: string;
}

const groundOf = (c: Colours, solid: string): GroundColours => ({ ...c, solid, edge: c.dim });

export const grounds: Readonly<Record<'dark' | 'grey' | 'light', GroundColours>> = {
  dark: groundOf(colours.dark, '#2c3a3e'),
  grey: {
    page: '#6F7779',
    line: '#858D8E',
    solid: '#939B9D',
    edge: '#C3C9C8',
    text: '#F4F1EA',
    selected: '#FFB49E',
    fresh: '#A5E3D8',
    warning: '#F3CB6B',
  },
  light: groundOf(colours.light, '#b9b2a3'),
};

const SANS = "'Hanken Grotesk Variable', system-ui, sans-serif";
export const MONO = "'JetBrains Mono Variable', ui-monospace, monospace";

export function makeTheme(mode: 'dark' | 'light'): Theme {
  const c = colours[mode];
  return createTheme({
    palette: {
      mode,
      background: { default: c.page, paper: c.panel },
      text: { primary: c.text, secondary: c.dim },
      primary: { main: c.primary, contrastText: '#FFFFFF' },
      secondary: { main: c.fresh },
      warning: { main: c.warning },
      error: { main: c.failed },
      divider: c.line,
    },
    typography: { fontFamily: SANS, fontSize: 13, button: { textTransform: 'none', fontWeight: 600 } },
    shape: { borderRadius: 6 },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          body: { backgroundColor: c.page, color: c.text, overflow: 'hidden', fontSize: 13 },
          '.mono': { fontFamily: MONO, fontVariantNumeric: 'tabular-nums', fontSize: '0.92em' },
          '*::-webkit-scrollbar': { width: 8, height: 8 },
          '*::-webkit-scrollbar-thumb': { background: c.line, borderRadius: 4 },
          ':focus-visible': { outline: `2px solid ${c.selected}`, outlineOffset: 1 },
        },
      },
      MuiButton: { defaultProps: { disableElevation: true, size: 'small' } },
      MuiButtonBase: { defaultProps: { disableRipple: true }, styleOverrides: { root: { fontFamily: SANS, fontSize: 13 } } },
      MuiPaper: { styleOverrides: { root: { backgroundImage: 'none' } } },
      MuiTooltip: {
        // Its text describes the control; the control's own text or label names it.
        defaultProps: { enterDelay: 500, arrow: true, describeChild: true },
        styleOverrides: {
          tooltip: { backgroundColor: c.raised, color: c.text, border: `1px solid ${c.line}`, fontSize: 12 },
          arrow: { color: c.raised },
        },
      },
      // Ruddle red is a fill; as text it would be too dark.
      MuiInputLabel: { styleOverrides: { root: { '&.Mui-focused': { color: c.selected } } } },
      MuiMenuItem: { styleOverrides: { root: { fontSize: 13, minHeight: 30 } } },
      MuiSelect: { defaultProps: { size: 'small' }, styleOverrides: { select: { paddingTop: 4, paddingBottom: 4, fontSize: 13 } } },
    },
  });
}
