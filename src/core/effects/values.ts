/** A number in the parameter's unit, a note value, a choice's id, or on and off. */
export type ParameterValue = number | string | boolean;
export type ParameterValues = Readonly<Record<string, ParameterValue>>;

/** It does something only while another parameter (of the same list item) has not this value, or has one of these. */
export type Needs =
  | { readonly id: string; readonly not: ParameterValue }
  | { readonly id: string; readonly oneOf: readonly ParameterValue[] };
