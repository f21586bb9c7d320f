// Every view is a function of the context in the address and of what the API answers; nothing of it is
// drawn on the server.
export const ssr = false;
