/** Whether the screen shows colours beyond sRGB: pictures are asked for in Display P3 then. */
export const wideScreen = () => window.matchMedia("(color-gamut: p3)").matches;
