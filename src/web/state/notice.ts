import { create } from 'zustand';

export interface Notice {
  readonly severity: 'error' | 'warning' | 'info' | 'success';
  readonly text: string;
  readonly action?: { readonly title: string; readonly run: () => void };
}

export const useNotice = create<{ readonly notice: Notice | null }>(() => ({ notice: null }));

export const say = (severity: Notice['severity'], text: string, action?: Notice['action']): void => {
  useNotice.setState({ notice: { severity, text, ...(action ? { action } : {}) } });
};

/** Says what went wrong. */
export const sayError = (error: unknown): void => say('error', error instanceof Error ? error.message : String(error));
