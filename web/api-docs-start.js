// The API's own documentation page, drawn from the description that the server gives.
window.SwaggerUIBundle({ url: '/openapi.json', dom_id: '#docs', validatorUrl: null });
