/** Where in the line something stands: half-open, in UTF-16 code units of the input's text. */
export interface Span {
  readonly start: number;
  readonly end: number;
}
