import type { ButtonHTMLAttributes } from "react";

type Props = ButtonHTMLAttributes<HTMLButtonElement> & { look?: "plain" | "main" | "quiet" };

const LOOKS = {
  plain: "border border-rule hover:border-brass",
  main: "bg-brass text-on-brass font-semibold hover:brightness-110",
  quiet: "hover:bg-raised",
};

export function Button({ look = "plain", className = "", ...rest }: Props) {
  return (
    <button
      type="button"
      className={`inline-flex items-center justify-center gap-1.5 rounded-full px-3 py-1 whitespace-nowrap disabled:opacity-40 ${LOOKS[look]} ${className}`}
      {...rest}
    />
  );
}

/** A round button with an icon and a name for those who do not see it; small ones fit into a line of text. */
export function IconButton({
  label,
  small = false,
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { label: string; small?: boolean }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      className={`inline-flex ${small ? "size-6" : "size-8"} shrink-0 items-center justify-center rounded-full hover:bg-raised disabled:opacity-35 ${className}`}
      {...rest}
    />
  );
}
