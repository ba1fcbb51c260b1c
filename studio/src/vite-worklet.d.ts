/** The address that a module bundled for the audio thread is served at. */
declare module "*?worker&url" {
  const url: string;
  export default url;
}

/** The address that a file is served at. */
declare module "*?url" {
  const url: string;
  export default url;
}
