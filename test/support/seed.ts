import fc from 'fast-check';

/** Properties are tried at the same random places in every run. */
fc.configureGlobal({ seed: 20261 });
