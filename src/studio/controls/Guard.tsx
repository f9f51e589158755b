import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { Component, type ReactNode } from 'react';

interface Props {
  /** what failed, at the beginning of a sentence */
  readonly what: string;
  readonly children: ReactNode;
  /** offered beside showing it again, such as taking the project out */
  readonly rescue?: { readonly label: string; run(): void };
}

/** Keeps a fault to the part of the page in which it happened: says so, and the rest lives on. */
export class Guard extends Component<Props, { readonly error: Error | null }> {
  override state: { readonly error: Error | null } = { error: null };

  static getDerivedStateFromError(error: unknown): { error: Error } {
    return { error: error instanceof Error ? error : new Error(String(error)) };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (!error) return this.props.children;
    const { what, rescue } = this.props;
    return (
      <Box role="alert" sx={{ padding: '14px', display: 'flex', flexDirection: 'column', alignItems: 'flex-start', gap: '8px' }}>
        <Box sx={{ fontWeight: 600 }}>{what} could not be shown.</Box>
        <Box sx={{ color: 'var(--mute)', overflowWrap: 'anywhere' }}>
          The rest of the page works, and what you did is saved. ({error.message.slice(0, 300)})
        </Box>
        <Box sx={{ display: 'flex', gap: '6px', flexWrap: 'wrap' }}>
          <Button onClick={() => this.setState({ error: null })}>Show it again</Button>
          {rescue && <Button onClick={rescue.run}>{rescue.label}</Button>}
        </Box>
      </Box>
    );
  }
}
