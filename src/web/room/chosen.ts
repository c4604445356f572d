/** What of a stage is chosen in the Stage room: its settings stand at the right. */
export type Chosen =
  | { readonly kind: 'prop' }
  | { readonly kind: 'light' | 'motes' | 'viewpoint'; readonly id: string }
  | { readonly kind: 'around' | 'optics' };
