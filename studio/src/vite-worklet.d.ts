/** The address that a module bundled for the audio thread is served at. */
declare module "*?worker&url" {
  const url: string;
  export default url;
}
