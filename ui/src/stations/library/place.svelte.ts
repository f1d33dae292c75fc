import { api, need } from '../../lib/api/client';
import { useChange } from '../../lib/change.svelte';
import { house } from '../../lib/house.svelte';

/**
 * Puts a color before another one, and so into its group, or last in its own (before: 0), or last in a group that is named.
 * Call it while a component is set up.
 */
export function placeBefore() {
  const changing = useChange(['ledger', 'sheet'], { aloud: true });
  return (color: number, before: number, group?: string) =>
    changing.run(async () => {
      const path = { house: house.id };
      if (group !== undefined)
        await need(api.POST('/houses/{house}/colors/bulk', { params: { path }, body: { colors: [color], group } }));
      await need(api.POST('/houses/{house}/colors/{color}/place', { params: { path: { ...path, color } }, body: { before } }));
    });
}
