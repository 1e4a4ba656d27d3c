export const NAME_LENGTH = 120;
