/** A kind of effect as a title: its model's name in the schema. */
export const titled = (kind: string) => kind.charAt(0).toUpperCase() + kind.slice(1);
