const TYPED = "input:not([type=range]):not([type=checkbox]):not([type=color]), textarea, [contenteditable]";

/** True if a key press goes into text. */
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof Element && target.matches(TYPED);
