import { api, need, sentence } from '../../lib/api/client';
import { house, useRefresh } from '../../lib/house.svelte';
import { message } from '../../lib/state.svelte';

/**
 * Puts a color before another one, and so into its group, or last in its own (before: 0), or last in a group that is named.
 * Call it while a component is set up.
 */
export function placeBefore() {
  const refresh = useRefresh();
  return async (color: number, before: number, group?: string) => {
    try {
      if (group !== undefined) await need(api.POST('/houses/{house}/colors/bulk', { params: { path: { house: house.id } }, body: { colors: [color], group } }));
      await need(api.POST('/houses/{house}/colors/{color}/place', { params: { path: { house: house.id, color } }, body: { before } }));
    } catch (e) {
      message.say(sentence(e));
    }
    await refresh('ledger', 'sheet');
  };
}
