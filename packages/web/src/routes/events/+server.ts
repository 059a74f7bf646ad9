import { listen } from '$lib/server/live';
import type { RequestHandler } from './$types';

const KEEP_ALIVE = 15_000;

/** Server-sent events: what is running, whenever it changes. */
export const GET: RequestHandler = () => {
  let end = () => {};
  const stream = new ReadableStream<string>({
    start(controller) {
      const stopListening = listen((text) => controller.enqueue(`data: ${text}\n\n`));
      const beat = setInterval(() => controller.enqueue(': still here\n\n'), KEEP_ALIVE);
      end = () => {
        stopListening();
        clearInterval(beat);
      };
    },
    cancel: () => end(),
  });
  return new Response(stream.pipeThrough(new TextEncoderStream()), {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  });
};
