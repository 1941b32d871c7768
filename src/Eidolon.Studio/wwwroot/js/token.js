// A value of the look's tokens as it stands under the theme of now, for what is drawn on a canvas.
export const token = (name) =>
  getComputedStyle(document.documentElement)
    .getPropertyValue("--e-" + name)
    .trim();
