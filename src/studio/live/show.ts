/** Opens the picture alone in a window. */
export function openShow(): void {
  window.open('/show', 'ombrage-show', 'popup,width=960,height=540');
}
