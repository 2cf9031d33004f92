import { createTheme, type MantineColorsTuple, SegmentedControl } from "@mantine/core";
import segmented from "./segmented.module.css";

const moss: MantineColorsTuple = [
  "#eaf3ed",
  "#d6e6dc",
  "#b3d0be",
  "#8db99e",
  "#6ba383",
  "#4d8b69",
  "#3d7a58",
  "#2f6b4a",
  "#27593e",
  "#1e4831",
];

/** Night slate: what Mantine draws dark is slate too. */
const dark: MantineColorsTuple = [
  "#f1eee4",
  "#d5ddd8",
  "#b3c4bd",
  "#8fa59d",
  "#3b4b47",
  "#2f3f3b",
  "#283734",
  "#22302d",
  "#1c2825",
  "#18211f",
];

export const theme = createTheme({
  colors: { moss, dark },
  primaryColor: "moss",
  primaryShade: { light: 7, dark: 7 },
  fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif",
  headings: { fontFamily: "'Bricolage Grotesque Variable', sans-serif", fontWeight: "620" },
  fontSizes: { md: "15px" },
  defaultRadius: 6,
  respectReducedMotion: true,
  components: { SegmentedControl: SegmentedControl.extend({ classNames: segmented }) },
});
