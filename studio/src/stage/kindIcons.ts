import type { ObjectKind } from "@bumbrel/core/scene/objectKinds";
import {
  Box,
  Circle,
  CircleDashed,
  Image,
  Lightbulb,
  type LucideIcon,
  Moon,
  SunDim,
  Video,
} from "lucide-react";

export const KIND_ICONS: Record<ObjectKind, LucideIcon> = {
  camera: Video,
  backdrop: Image,
  box: Box,
  sphere: Circle,
  ring: CircleDashed,
  pointLight: Lightbulb,
  sunLight: Moon,
  ambientLight: SunDim,
};
