import Box from '@mui/material/Box';
import { useEffect, type ReactNode } from 'react';
import { useDropzone } from 'react-dropzone';

/** A picture cut out elsewhere has a name that says nothing: every browser gives the same one to all of them. */
const named = (file: File): File => (file.name === 'image.png' ? new File([file], 'Pasted picture.png', { type: file.type }) : file);

/** Files may be dropped anywhere, or pasted. */
export function FileDrop({
  children,
  onFiles,
  hint = 'Drop pictures to make shots, or a project file to open it',
}: {
  children: ReactNode;
  onFiles: (files: File[]) => unknown;
  hint?: string | undefined;
}) {
  const { getRootProps, isDragActive } = useDropzone({ noClick: true, noKeyboard: true, onDrop: (files) => files.length > 0 && onFiles(files) });
  useEffect(() => {
    const paste = (event: ClipboardEvent): void => {
      const files = Array.from(event.clipboardData?.files ?? []).map(named);
      if (files.length > 0) onFiles(files);
    };
    window.addEventListener('paste', paste);
    return () => window.removeEventListener('paste', paste);
  }, [onFiles]);
  return (
    <Box {...getRootProps()} tabIndex={undefined} role={undefined} sx={{ height: '100vh', outline: 'none' }}>
      {children}
      {isDragActive && (
        <Box
          sx={{
            position: 'fixed',
            inset: 12,
            zIndex: 1500,
            border: '2px dashed var(--paper)',
            borderRadius: '6px',
            background: 'rgba(26,26,25,.82)',
            display: 'flex',
            alignItems: 'center',
            justifyContent: 'center',
            fontSize: 16,
            pointerEvents: 'none',
          }}
        >
          {hint}
        </Box>
      )}
    </Box>
  );
}
