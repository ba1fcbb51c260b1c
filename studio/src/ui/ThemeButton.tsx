import { Moon, Sun } from "lucide-react";
import { IconButton } from "../../ui/Button";
import { useUi } from "./uiState";

/** Changes between the dark and the light theme. */
export function ThemeButton() {
  const { theme, setTheme } = useUi();
  const isDark = theme === "dark";
  return (
    <IconButton
      label={isDark ? "Use the light theme" : "Use the dark theme"}
      onClick={() => setTheme(isDark ? "light" : "dark")}
    >
      {isDark ? <Sun size={18} /> : <Moon size={18} />}
    </IconButton>
  );
}
