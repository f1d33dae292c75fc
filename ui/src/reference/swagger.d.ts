declare module 'swagger-ui-dist/swagger-ui-es-bundle.js' {
  interface Sent {
    method?: string;
    headers?: Record<string, string>;
  }
  export default function page(options: {
    dom_id: string;
    url: string;
    deepLinking: boolean;
    docExpansion: string;
    filter: boolean;
    validatorUrl: null;
    defaultModelsExpandDepth: number;
    requestInterceptor: (request: Sent) => Promise<Sent>;
  }): void;
}
