/** Whether this process answers. It says nothing about what is watched. */
export const GET = () => new Response('ok\n', { headers: { 'content-type': 'text/plain' } })
