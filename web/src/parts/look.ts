import { createTheme, type CSSVariablesResolver } from '@mantine/core';

/** The colours of a scheme by their roles; state is told by shape first (screens, Look). */
export type Look = {
  readonly ground: string;
  readonly sunken: string;
  readonly raised: string;
  readonly line: string;
  readonly text: string;
  readonly quiet: string;
  /** Reading: plain lines and hollow caps. */
  readonly bone: string;
  /** Being written. */
  readonly coral: string;
  readonly onCoral: string;
  /** Held aside; and all that can be acted on. */
  readonly teal: string;
  readonly ghost: string;
  readonly isDark: boolean;
};

export const LOOKS: Record<'lamp' | 'paper', Look> = {
  lamp: {
    ground: '#1e1a22',
    sunken: '#18151c',
    raised: '#28232d',
    line: '#3a3440',
    text: '#ece6da',
    quiet: '#a79fae',
    bone: '#ece6da',
    coral: '#ff8a66',
    onCoral: '#2a120a',
    teal: '#5cc8bd',
    ghost: 'rgba(167, 159, 174, 0.2)',
    isDark: true,
  },
  paper: {
    ground: '#f4efe6',
    sunken: '#eae3d6',
    raised: '#fffaf1',
    line: '#cfc5b4',
    text: '#2b2530',
    quiet: '#665d6d',
    bone: '#2b2530',
    coral: '#bf3f14',
    onCoral: '#fff6f0',
    teal: '#0d7268',
    ghost: 'rgba(102, 93, 109, 0.2)',
    isDark: false,
  },
};

/** A family's quiet hue: equal lightness and strength, told apart by hue alone. It never carries state. */
export function familyHue(families: readonly string[], family: string, { isDark }: Look): string {
  const i = Math.max(0, families.indexOf(family));
  const hue = (40 + (i * 360) / Math.max(6, families.length)) % 360;
  return `oklch(${isDark ? 0.74 : 0.58} 0.075 ${hue.toFixed(0)})`;
}

export const FONT = "'Atkinson Hyperlegible', sans-serif";
export const FIGURES = "'Atkinson Hyperlegible Mono', monospace";

/** How long something is pointed at before it is said what it is. */
export const TIP_AFTER_MS = 400;

export const theme = createTheme({
  fontFamily: FONT,
  fontFamilyMonospace: FIGURES,
  fontSizes: { xs: '12px', sm: '13px', md: '14px', lg: '16px', xl: '20px' },
  defaultRadius: 'md',
  primaryColor: 'act',
  // Motion only where something moves in the song.
  components: {
    // Only items stand in a menu: the focus goes to the first of them.
    Menu: {
      defaultProps: {
        transitionProps: { duration: 0 },
        withInitialFocusPlaceholder: false,
        // However long it is and wherever it opens, all of it stands in the window, over what it opens from where it must.
        middlewares: { shift: { crossAxis: true, limiter: undefined, padding: 5 } },
      },
      // A name of any length is read whole there, in as many lines as it takes.
      styles: {
        dropdown: {
          ...{ maxHeight: 'calc(100vh - 10px)', overflowY: 'auto' },
          ...{ maxWidth: 'min(420px, calc(100vw - 10px))', overflowWrap: 'anywhere' },
        },
      },
    },
    Tooltip: { defaultProps: { transitionProps: { duration: 0 }, openDelay: TIP_AFTER_MS } },
  },
  colors: {
    hand: [
      '#fff1ec',
      '#ffdfd4',
      '#ffc4b0',
      '#ffa98c',
      '#ff9775',
      '#ff8a66',
      '#e8734f',
      '#c75a38',
      '#a14426',
      '#7a3019',
    ],
    // All that can be acted on, and long work going on; the hand's coral is kept for writing.
    act: ['#e3f6f4', '#c6ece8', '#9bdcd5', '#7dd2c9', '#5cc8bd', '#35ab9f', '#0d7268', '#0b6059', '#16796e', '#1c5f58'],
    gray: [
      '#f4efe6',
      '#eae3d6',
      '#cfc5b4',
      '#a79fae',
      '#7d7584',
      '#665d6d',
      '#544c5b',
      '#4f4757',
      '#4a4250',
      '#28232d',
    ],
    dark: [
      '#ece6da',
      '#cfc8c4',
      '#a79fae',
      '#7d7584',
      '#544c5b',
      '#3a3440',
      '#28232d',
      '#1e1a22',
      '#18151c',
      '#120f15',
    ],
  },
});

/** Gives Mantine's surfaces the colours of the scheme, and the rest of the page the same under short names. */
export const cssVariables: CSSVariablesResolver = () => {
  const of = (look: Look): Record<string, string> => ({
    '--mantine-color-body': look.ground,
    '--mantine-color-text': look.text,
    '--mantine-color-dimmed': look.quiet,
    '--mantine-color-default': look.raised,
    '--mantine-color-default-hover': look.line,
    '--mantine-color-default-border': look.line,
    '--mantine-color-default-color': look.text,
    '--mantine-color-disabled': look.raised,
    '--mantine-color-disabled-color': look.quiet,
    '--mantine-color-disabled-border': look.line,
    '--ground': look.ground,
    '--sunken': look.sunken,
    '--raised': look.raised,
    '--line': look.line,
    '--text': look.text,
    '--quiet': look.quiet,
    '--coral': look.coral,
    '--on-coral': look.onCoral,
    '--teal': look.teal,
  });
  // White words stand on it, in either light.
  const filled = { '--mantine-color-hand-filled': 'var(--mantine-color-hand-8)' };
  const hover = { '--mantine-color-hand-filled-hover': 'var(--mantine-color-hand-9)' };
  return { variables: {}, dark: of(LOOKS.lamp), light: { ...of(LOOKS.paper), ...filled, ...hover } };
};
