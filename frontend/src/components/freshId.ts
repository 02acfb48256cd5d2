/** An id that no other has: the name and the first number that is free. */
export function freshId(name: string, others: readonly { id: string }[]): string {
  const taken = new Set(others.map((entry) => entry.id));
  let number = others.length + 1;
  while (taken.has(`${name}-${number}`)) number += 1;
  return `${name}-${number}`;
}
