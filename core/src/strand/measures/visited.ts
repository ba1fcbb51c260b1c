import { measure, single } from "./declaration";

/** Values of zones on the stage; the simulation hands them to strands as visitors move. */
export const VISITED = {
  fullness: measure({
    label: "Fullness",
    help: "How near the middle of a zone somebody is: 0 outside and at its border, 1 in its middle.",
    group: "zones",
    unit: "share",
    reads: ["zone"],
    settings: {},
    ahead: () => 0,
    start: () => single(() => 0),
  }),
};
