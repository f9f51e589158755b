import { createTheme } from '@mui/material/styles';
import { fonts, tokens } from './tokens';

const FADE = '120ms';

/** What opens over the page belongs to its main part, for those who go by landmarks. */
const mainPart = (): HTMLElement => document.querySelector('main') ?? document.body;

/** Colours, type and the shape of every control, so that screens need few styles of their own. */
export const theme = createTheme({
  palette: {
    mode: 'dark',
    primary: { main: tokens.paper, contrastText: tokens.base },
    secondary: { main: tokens.mute },
    error: { main: tokens.alert },
    background: { default: tokens.base, paper: tokens.panel },
    text: { primary: tokens.text, secondary: tokens.mute, disabled: tokens.faint },
    divider: tokens.line,
    action: { hover: tokens.raise, selected: tokens.raise },
  },
  shape: { borderRadius: 4 },
  spacing: 4,
  shadows: Array.from({ length: 25 }, (_, i) => (i === 8 ? '0 6px 24px rgba(0,0,0,.5)' : 'none')) as never,
  transitions: { duration: { shortest: 80, shorter: 100, short: 120, standard: 120, complex: 120, enteringScreen: 120, leavingScreen: 100 } },
  typography: {
    fontFamily: fonts.interface,
    fontSize: 12.5,
    htmlFontSize: 16,
    body1: { fontSize: 12.5, lineHeight: 1.4 },
    body2: { fontSize: 12, lineHeight: 1.4 },
    h1: { fontSize: 20, fontWeight: 600 },
    h2: { fontSize: 13, fontWeight: 600 },
    h3: { fontSize: 11.5, fontWeight: 550, color: tokens.mute },
    button: { fontSize: 12.5, fontWeight: 500, textTransform: 'none' },
    caption: { fontSize: 11, color: tokens.faint },
  },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        ':root': Object.fromEntries(Object.entries(tokens).map(([k, v]) => [`--${k}`, v])),
        'html, body': { height: '100%', overflow: 'hidden', fontFeatureSettings: '"tnum"' },
        '*:focus-visible': { outline: `1.5px solid ${tokens.paper}`, outlineOffset: 1 },
        '.mono': { fontFamily: fonts.numbers, fontSize: 11, letterSpacing: '-0.01em' },
        '@media (prefers-reduced-motion: reduce)': { '*': { transition: 'none !important', animation: 'none !important' } },
        '::-webkit-scrollbar': { width: 8, height: 8 },
        '::-webkit-scrollbar-thumb': { background: tokens.line2, borderRadius: 4 },
      },
    },
    MuiButtonBase: { defaultProps: { disableRipple: true }, styleOverrides: { root: { fontFamily: 'inherit', fontSize: 'inherit' } } },
    MuiButton: {
      defaultProps: { disableElevation: true, size: 'small', variant: 'outlined', color: 'inherit' },
      styleOverrides: {
        root: { height: 28, padding: '0 12px', borderColor: tokens.line2, minWidth: 0, whiteSpace: 'nowrap', transitionDuration: FADE },
        contained: { fontWeight: 600, background: tokens.paper, color: tokens.base, '&:hover': { background: '#fff9ea' } },
      },
    },
    MuiSelect: {
      defaultProps: { size: 'small', variant: 'standard', fullWidth: true },
      styleOverrides: { select: { fontSize: 12.5, padding: '2px 22px 2px 6px !important', minHeight: 'unset' } },
    },
    MuiIconButton: {
      defaultProps: { size: 'small' },
      styleOverrides: { root: { borderRadius: 4, padding: 4, color: tokens.mute, '& svg': { fontSize: 18 } } },
    },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
    // a menu that is fading away would take the next click
    MuiMenu: {
      defaultProps: { transitionDuration: { enter: 120, exit: 0 }, container: mainPart },
      styleOverrides: { paper: { background: tokens.raise, border: `1px solid ${tokens.line2}`, boxShadow: '0 6px 24px rgba(0,0,0,.5)' } },
    },
    MuiMenuItem: { styleOverrides: { root: { minHeight: 28, fontSize: 12.5, padding: '2px 12px', '&.Mui-selected': { background: tokens.line2 } } } },
    MuiPopover: {
      defaultProps: { container: mainPart },
      styleOverrides: { paper: { background: tokens.raise, border: `1px solid ${tokens.line2}` } },
    },
    MuiDialog: {
      defaultProps: { container: mainPart },
      styleOverrides: { paper: { background: tokens.panel, border: `1px solid ${tokens.line2}` } },
    },
    MuiTooltip: {
      defaultProps: { enterDelay: 500, disableInteractive: true, describeChild: true },
      styleOverrides: {
        tooltip: { background: tokens.raise, color: tokens.text, border: `1px solid ${tokens.line2}`, fontSize: 11.5, fontWeight: 400 },
      },
    },
    MuiToggleButtonGroup: { styleOverrides: { root: { height: 26 } } },
    MuiToggleButton: {
      styleOverrides: {
        root: {
          padding: '0 10px',
          fontSize: 12,
          lineHeight: 1,
          color: tokens.mute,
          borderColor: tokens.line2,
          transitionDuration: FADE,
          '&.Mui-selected, &.Mui-selected:hover': { background: tokens.paper, color: tokens.base, fontWeight: 600 },
        },
      },
    },
    MuiSlider: {
      defaultProps: { size: 'small' },
      styleOverrides: {
        root: { height: 2, padding: '12px 0', color: tokens.mute, '@media (pointer: coarse)': { padding: '12px 0' } },
        rail: { background: tokens.line2, opacity: 1 },
        track: { border: 'none' },
        thumb: {
          width: 10,
          height: 10,
          background: tokens.paper,
          '&:hover, &.Mui-active': { boxShadow: 'none' },
          '&.Mui-focusVisible': { boxShadow: 'none', outline: `1.5px solid ${tokens.paper}`, outlineOffset: 2 },
        },
      },
    },
    MuiSwitch: {
      defaultProps: { size: 'small' },
      styleOverrides: {
        root: {
          '&.MuiSwitch-sizeSmall': { width: 22, height: 12, padding: 0, overflow: 'visible', flexShrink: 0 },
          '&.MuiSwitch-sizeSmall .MuiSwitch-switchBase': { padding: 2, color: tokens.mute },
          '&.MuiSwitch-sizeSmall .MuiSwitch-thumb': { width: 8, height: 8, background: 'currentColor', boxShadow: 'none' },
          '&.MuiSwitch-sizeSmall .MuiSwitch-switchBase.Mui-checked': { transform: 'translateX(10px)', color: tokens.paper },
          '& .MuiSwitch-switchBase.Mui-checked + .MuiSwitch-track': { background: '#57544c', opacity: 1 },
          '& .Mui-focusVisible + .MuiSwitch-track': { outline: `1.5px solid ${tokens.paper}`, outlineOffset: 2 },
        },
        track: { borderRadius: 6, background: tokens.line2, opacity: 1 },
      },
    },
    MuiInputBase: { styleOverrides: { root: { fontSize: 12.5 } } },
    MuiLinearProgress: { styleOverrides: { root: { height: 2, background: tokens.line2 }, bar: { background: tokens.paper } } },
    MuiLink: { defaultProps: { underline: 'hover' } },
  },
});
