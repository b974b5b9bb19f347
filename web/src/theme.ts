// The tokens of plaster and verdigris, in one file. Everything else refers to these.
import { createTheme, type MantineColorsTuple } from "@mantine/core";

const verdigris: MantineColorsTuple = [
  "#e9f3f1",
  "#d3e6e2",
  "#a8cfc7",
  "#7cb7ab",
  "#57a293",
  "#3f9080",
  "#2e7d6e",
  "#276a5e",
  "#1f564c",
  "#16423a",
];
const oxide: MantineColorsTuple = [
  "#faeeea",
  "#f1d8cf",
  "#e2af9f",
  "#d3866d",
  "#c46545",
  "#ba5436",
  "#b0492b",
  "#943b21",
  "#782f1a",
  "#5c2413",
];

export const theme = createTheme({
  colors: { verdigris, oxide },
  primaryColor: "verdigris",
  primaryShade: 6,
  fontFamily: "'Source Sans 3 Variable', sans-serif",
  fontFamilyMonospace: "'Source Code Pro Variable', monospace",
  fontSizes: { xs: "12px", sm: "13px", md: "14px", lg: "16px", xl: "20px" },
  spacing: { xs: "4px", sm: "8px", md: "12px", lg: "16px", xl: "24px" },
  defaultRadius: 3,
  black: "#2a2927",
  focusRing: "auto",
  respectReducedMotion: true,
  components: {
    Button: { defaultProps: { size: "compact-sm" } },
    NumberInput: { defaultProps: { size: "xs", hideControls: true } },
    TextInput: { defaultProps: { size: "xs" } },
    Select: { defaultProps: { size: "xs", allowDeselect: false, comboboxProps: { withinPortal: true } } },
    ColorInput: { defaultProps: { size: "xs", format: "hex" } },
    SegmentedControl: {
      defaultProps: { size: "xs" },
      styles: {
        root: { background: "var(--plaster-deep)" },
        indicator: { background: "var(--paper)", boxShadow: "none", border: "1px solid var(--hairline)" },
      },
    },
    Switch: { defaultProps: { size: "xs" } },
    Modal: { defaultProps: { overlayProps: { backgroundOpacity: 0.2 }, closeButtonProps: { "aria-label": "Close" } } },
    Menu: { defaultProps: { withInitialFocusPlaceholder: false } },
    Drawer: { defaultProps: { closeButtonProps: { "aria-label": "Close" } } },
    Tooltip: { defaultProps: { openDelay: 350, withArrow: false } },
    ActionIcon: { defaultProps: { variant: "subtle", color: "gray", size: "sm" } },
  },
});
