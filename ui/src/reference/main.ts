// The contract as a page: read, and tried as whoever is signed in. The package is gray here, as all is that is not a color of a house.
import page from 'swagger-ui-dist/swagger-ui-es-bundle.js';
import 'swagger-ui-dist/swagger-ui.css';
import './reference.css';

/** The token that changes of a session carry; empty where nobody is signed in. */
async function token(): Promise<string> {
  const answer = await fetch('/api/session');
  return answer.ok ? (((await answer.json()) as { csrf?: string }).csrf ?? '') : '';
}

page({
  dom_id: '#reference',
  url: '/api/openapi.yaml',
  deepLinking: true,
  docExpansion: 'none',
  filter: true,
  validatorUrl: null,
  defaultModelsExpandDepth: 0,
  requestInterceptor: async (request) => {
    if (request.method && request.method !== 'GET' && !request.headers?.Authorization) {
      request.headers = { ...request.headers, 'X-CSRF-Token': await token() };
    }
    return request;
  },
});
