/** Made-up ways of meeting a scene. */
export const TRY_OUTS = { window: "Window", phone: "Phone", headset: "Headset" } as const;
export type TryOut = keyof typeof TRY_OUTS;
export const TRY_OUT_NAMES = Object.keys(TRY_OUTS) as TryOut[];
