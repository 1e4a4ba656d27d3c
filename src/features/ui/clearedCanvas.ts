/** An empty canvas in the colour of its element. */
export function clearedCanvas(element: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D {
  const scale = window.devicePixelRatio || 1;
  element.width = width * scale;
  element.height = height * scale;
  const context = element.getContext('2d')!;
  context.scale(scale, scale);
  context.fillStyle = getComputedStyle(element).color;
  return context;
}
