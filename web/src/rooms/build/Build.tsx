// The Build room: the section to the left, the mask line below, settings to the right.
export { MaskLine as BuildBottom } from "./MaskLine";
export { Section as BuildLeft } from "./Section";
export { Settings as BuildRight } from "./Settings";
