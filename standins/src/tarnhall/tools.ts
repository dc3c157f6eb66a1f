/** Tools that the house has connected: whatever begins with their address is started with their keys. */
export interface TTool {
  id: string;
  name: string;
  address: string;
}

export const TOOLS: readonly TTool[] = [
  { id: 'k1', name: 'Plank calculator', address: 'https://tools.marrowick.example/planks/' },
  { id: 'k2', name: 'Chart of the marsh', address: 'https://maps.marrowick.example/' },
];

/** The connected tool that an address belongs to. */
export function toolOf(address: string): TTool | undefined {
  return TOOLS.find((tool) => address.startsWith(tool.address));
}
