import { COMFORT_SETTINGS, type Comfort, storeComfort, storedComfort } from "../visit/comfort";
import { folded } from "./folded";

/** Fields in which a visitor chooses how to be in a headset; their choice is kept on the device. */
export function comfortFields(onChange: (comfort: Comfort) => void): HTMLElement {
  const comfort = storedComfort();
  const fields = (Object.keys(COMFORT_SETTINGS) as (keyof Comfort)[]).map((key) => {
    const { label, help, choices } = COMFORT_SETTINGS[key];
    const select = document.createElement("select");
    select.setAttribute("aria-label", label);
    select.title = help;
    for (const [value, words] of Object.entries(choices)) select.append(new Option(words, value));
    select.value = comfort[key];
    select.addEventListener("change", () => {
      Object.assign(comfort, { [key]: select.value });
      storeComfort(comfort);
      onChange({ ...comfort });
    });
    return select;
  });
  return folded("Comfort in the headset", ...fields);
}
