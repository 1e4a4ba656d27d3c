declare module 'libflacjs/dist/libflac.js' {
  const flac: unknown;
  export default flac;
}
