import { Moon, Sun } from "lucide-react";
import { IconButton } from "./Button";

/** Changes between the dark and the light theme. */
export function ThemeButton({
  theme,
  onChange,
}: {
  theme: "dark" | "light";
  onChange(theme: "dark" | "light"): void;
}) {
  const isDark = theme === "dark";
  return (
    <IconButton
      label={isDark ? "Use the light theme" : "Use the dark theme"}
      onClick={() => onChange(isDark ? "light" : "dark")}
    >
      {isDark ? <Sun size={18} /> : <Moon size={18} />}
    </IconButton>
  );
}
