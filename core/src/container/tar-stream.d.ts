/** What is used of tar-stream. Its published types bring all of Node's along, which a browser has not. */
declare module 'tar-stream' {
  export interface TarEntry extends AsyncIterable<Uint8Array> {
    header: { name: string; type?: string; size?: number };
    resume(): void;
  }
  export interface Extract extends AsyncIterable<TarEntry> {
    write(bytes: Uint8Array): boolean;
    end(): void;
    destroy(error?: Error): void;
    once(event: 'drain', listener: () => void): this;
  }
  export function extract(): Extract;
}
