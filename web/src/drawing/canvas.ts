/** A canvas made as sharp as the screen; returns its context in CSS pixels. */
export function prepare(
  canvas: HTMLCanvasElement,
): { context: CanvasRenderingContext2D; width: number; height: number } | null {
  const context = canvas.getContext("2d");
  const { clientWidth: width, clientHeight: height } = canvas;
  if (!context || !width || !height) return null;
  const scale = window.devicePixelRatio || 1;
  const [w, h] = [Math.round(width * scale), Math.round(height * scale)];
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w;
    canvas.height = h;
  }
  context.setTransform(scale, 0, 0, scale, 0, 0);
  context.clearRect(0, 0, width, height);
  return { context, width, height };
}
