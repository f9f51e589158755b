/** A field that text is typed into keeps its keys; a slider or a switch that has the focus does not. */
export function writesText(target: EventTarget | null): boolean {
  if (target instanceof HTMLInputElement) return !['range', 'checkbox', 'radio', 'button'].includes(target.type);
  return target instanceof HTMLTextAreaElement || (target instanceof HTMLElement && target.isContentEditable);
}
