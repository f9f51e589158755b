/** How two eyes are shown. */
export const stereoForms = ['red-cyan', 'half-colour', 'grey', 'side-by-side', 'side-by-side-half', 'over-under'] as const;
export type StereoForm = (typeof stereoForms)[number];
