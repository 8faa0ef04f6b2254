/** Whether the browser draws 3D on the processor, for want of a graphics card. */
export function drawsInSoftware(): boolean {
  const context = document.createElement("canvas").getContext("webgl2");
  if (!context) return true;
  const info = context.getExtension("WEBGL_debug_renderer_info");
  const name = String(context.getParameter(info ? info.UNMASKED_RENDERER_WEBGL : context.RENDERER));
  context.getExtension("WEBGL_lose_context")?.loseContext();
  return /swiftshader|llvmpipe|software|basic render/i.test(name);
}

/** Pixels of a 3D view where the processor draws them, by those of the page: no more than the screen can show. */
export function softwarePixels(times: number): number {
  return times * Math.min(1, window.devicePixelRatio || 1);
}
