import * as Comlink from 'comlink';
import { carryErrors } from '../errors.ts';
import { announceLife } from '../jobs/life.ts';
import { FrameServer, type ShowOptions } from './frame-server.ts';

carryErrors();

/** The frame server with large results handed over rather than copied. */
class RemoteFrameServer extends FrameServer {
  override async bitmap(frame: number, options: ShowOptions): Promise<ImageBitmap> {
    const bitmap = await super.bitmap(frame, options);
    return Comlink.transfer(bitmap, [bitmap]);
  }

  override async sound(from: number, count: number): Promise<[Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>]> {
    const channels = await super.sound(from, count);
    return Comlink.transfer(
      channels,
      channels.map((channel) => channel.buffer),
    );
  }
}

Comlink.expose(new RemoteFrameServer());
announceLife();
