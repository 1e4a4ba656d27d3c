import type { ParameterValues } from '@/core/effects/spec';

/** One voice alone, as set, without drift. */
export const alone = (values: ParameterValues = {}): ParameterValues => ({
  'voices.1.follow': 'interval',
  'voices.1.humanize': 0,
  'voices.1.glide': 0,
  'voices.1.pan': 0,
  'voices.1.level': 0,
  mix: 100,
  ...values,
});
