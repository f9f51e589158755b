/** The small picture of the plate that was brought in last, until its shot shows its own. */
let kept: { readonly shot: string; readonly picture: ImageBitmap } | null = null;

export function keepFirstPicture(shot: string, picture: ImageBitmap): void {
  kept?.picture.close();
  kept = { shot, picture };
}

/** The picture kept for a shot, handed over once; null where there is none. */
export function takeFirstPicture(shot: string): ImageBitmap | null {
  if (kept?.shot !== shot) return null;
  const { picture } = kept;
  kept = null;
  return picture;
}
