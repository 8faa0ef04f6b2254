/** Once what is being done is on the screen, and menus have given the focus back. */
export function afterwards(act: () => void) {
  requestAnimationFrame(() => requestAnimationFrame(act));
}
