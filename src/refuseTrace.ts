import { Server, type IncomingMessage, type ServerResponse } from 'node:http';

/** Methods that the framework cannot even make a request of: they are refused before it sees them. */
const REFUSED = ['TRACE', 'TRACK'];

/** Answers methods that nothing here understands with 405, as the proxy does others. */
export function refuseTrace(): void {
  const emit = Server.prototype.emit as (this: Server, event: string, ...args: unknown[]) => boolean;
  Server.prototype.emit = function (this: Server, event: string, ...args: unknown[]): boolean {
    if (event === 'request' && REFUSED.includes((args[0] as IncomingMessage).method ?? '')) {
      (args[1] as ServerResponse).writeHead(405, { Allow: 'GET, HEAD' }).end();
      return true;
    }
    return emit.call(this, event, ...args);
  } as typeof Server.prototype.emit;
}
