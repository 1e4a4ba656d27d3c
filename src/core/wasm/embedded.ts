import { MODULE } from './embedded.generated';
import { provideWasm } from './module';

// For what runs in Node: programs, tests and scripts import this file first.
provideWasm(() => new WebAssembly.Module(Uint8Array.from(atob(MODULE), (letter) => letter.charCodeAt(0))));
