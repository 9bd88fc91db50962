/** Which renderer draws here: the graphics unit, or the processor where there is none or where it is only acted out. */
import { EngineError } from '../errors.ts';
import type { FrameRenderer } from './frame-renderer.ts';
import { LanesRenderer } from './lanes/lanes-renderer.ts';
import { Renderer } from './renderer.ts';

/** What a person asks for; `auto` takes the graphics unit where there is a real one. */
export type RendererChoice = 'auto' | 'gpu' | 'cpu';

/** Names of graphics units that the processor acts out, slower than it draws by itself. */
const ACTED = /swiftshader|llvmpipe|softpipe|software|basic render/i;

let real: boolean | undefined;
/** Whether this browser draws on a graphics unit of its own. Asked once. */
function hasUnit(): boolean {
  if (real === undefined) {
    const gl = new OffscreenCanvas(1, 1).getContext('webgl2');
    const about = gl?.getExtension('WEBGL_debug_renderer_info');
    const name = gl ? String(gl.getParameter(about ? about.UNMASKED_RENDERER_WEBGL : gl.RENDERER)) : '';
    real = gl !== null && !ACTED.test(name);
    gl?.getExtension('WEBGL_lose_context')?.loseContext();
  }
  return real;
}

/**
 * @param canvas on which frames are shown; without one they are only read
 * @throws EngineError where the graphics unit is asked for and there is none
 */
export function chooseRenderer(
  choice: RendererChoice,
  canvas: OffscreenCanvas | null,
  onRestored?: () => void,
): FrameRenderer {
  if (choice === 'cpu' || (choice === 'auto' && !hasUnit())) return new LanesRenderer(canvas);
  try {
    return new Renderer(canvas ?? new OffscreenCanvas(16, 16), onRestored);
  } catch (error) {
    if (choice === 'gpu' || !(error instanceof EngineError)) throw error;
    return new LanesRenderer(canvas);
  }
}
