import { useRef, type ReactNode } from 'react';

/** A file that is chosen by a button of one's own: `open` asks for it, `input` stands anywhere. */
export function useFilePick(label: string, accept: string, onFile: (file: File) => void): { open(): void; readonly input: ReactNode } {
  const ref = useRef<HTMLInputElement>(null);
  return {
    open: () => ref.current?.click(),
    input: (
      <input
        ref={ref}
        type="file"
        accept={accept}
        aria-label={label}
        style={{ display: 'none' }}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          // the same file may be chosen again
          e.target.value = '';
          if (file) onFile(file);
        }}
      />
    ),
  };
}
