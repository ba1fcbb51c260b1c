/** The graphics card gave up while a film was made; that says nothing about the film, which can be tried again. */
export class GraphicsLost extends Error {
  readonly mayPass = true;

  constructor() {
    super("The graphics gave up while a frame was drawn.");
  }
}
