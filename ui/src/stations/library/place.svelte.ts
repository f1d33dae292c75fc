import { way, type Way } from '../../lib/back';
import { api, need, type Schema } from '../../lib/api/client';
import { useChange } from '../../lib/change.svelte';
import { house } from '../../lib/house.svelte';

/**
 * Puts a color of a ledger in its order before another one, and so into its group, or last in its own (before: 0), or last in a
 * group that is named; says so and offers the way back. Call it while a component is set up.
 */
export function placeBefore(ledger: () => Schema['ColorRow'][]) {
  const changing = useChange(['ledger', 'sheet'], { aloud: true });
  async function put(color: number, before: number, group?: string) {
    const path = { house: house.id };
    if (group !== undefined)
      await need(api.POST('/houses/{house}/colors/bulk', { params: { path }, body: { colors: [color], group } }));
    await need(api.POST('/houses/{house}/colors/{color}/place', { params: { path: { ...path, color } }, body: { before } }));
  }
  return (color: number, before: number, group?: string) =>
    changing.run(async () => {
      const at = ledger().findIndex((c) => c.id === color);
      const was = ledger()[at];
      const next = ledger()[at + 1];
      await put(color, before, group);
      if (!was) return;
      const back = next?.group === was.group ? next.id : 0;
      const path = { house: house.id };
      const undo: Way[] = [
        way('post', '/houses/{house}/colors/bulk', { params: { path }, body: { colors: [color], group: was.group } }),
        way('post', '/houses/{house}/colors/{color}/place', { params: { path: { ...path, color } }, body: { before: back } }),
      ];
      return { said: `${was.name} has another place`, undo };
    });
}
