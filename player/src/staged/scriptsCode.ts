/** Code of the thread for scripts; the build of the package puts it here. */
export const SCRIPTS_CODE: string = "";
