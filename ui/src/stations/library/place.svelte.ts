import { api, need, sentence } from '../../lib/api/client';
import { house, useRefresh } from '../../lib/house.svelte';
import { message } from '../../lib/state.svelte';

/** Puts a color before another one (0: last) in the order by hand. Call it while a component is set up. */
export function placeBefore() {
  const refresh = useRefresh();
  return async (color: number, before: number) => {
    try {
      await need(api.POST('/houses/{house}/colors/{color}/place', { params: { path: { house: house.id, color } }, body: { before } }));
    } catch (e) {
      message.say(sentence(e));
    }
    await refresh('ledger', 'sheet');
  };
}
