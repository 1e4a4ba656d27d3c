import '@/core/wasm/embedded';
import fc from 'fast-check';
import { SEED } from './sweep';

fc.configureGlobal({ seed: SEED });
