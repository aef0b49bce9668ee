import { request as rawRequest } from 'node:http'
import { connect } from 'node:net'
import { addressOf, expect, test } from './hydrated.ts'

// What comes in from outside, at the door of the web process: asked as no browser would.

test.use({ role: 'administer' })

/** Asks with any headers at all. */
function ask(path: string, headers: Record<string, string>): Promise<{ status: number; text: string }> {
  return new Promise((resolve, reject) => {
    const asked = rawRequest(new URL(path, addressOf()), { headers }, (reply) => {
      let text = ''
      reply.setEncoding('utf8')
      reply.on('data', (piece: string) => (text += piece))
      reply.on('end', () => resolve({ status: reply.statusCode ?? 0, text }))
    })
    asked.on('error', reject)
    asked.end()
  })
}

/** What comes back of a request that is sent as it is. */
function plainly(text: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const { hostname, port } = new URL(addressOf())
    const socket = connect(Number(port), hostname, () => socket.write(text))
    let answer = ''
    socket.setEncoding('utf8')
    socket.on('data', (piece: string) => (answer += piece))
    socket.on('end', () => resolve(answer))
    socket.on('error', reject)
  })
}

test('any name in Host is not ours; an address of the machine is', async () => {
  const evil = await ask('/sign-in', { host: 'rack.evil.example' })
  expect(evil.status).toBe(421)
  expect(evil.text).toContain('not known as rack.evil.example')
  expect(JSON.parse(evil.text)).toHaveProperty('message')
  const opened = await ask('/sign-in', { host: 'rack.evil.example', accept: 'text/html' })
  expect(opened.text).toMatch(/^<!doctype html>[\s\S]*not known as rack\.evil\.example/)
  expect((await ask('/<b>%00', { host: 'x.example', accept: 'text/html' })).text).not.toContain('<b>')
  // Balancers ask by HTTP/1.0, and name no host.
  expect(await plainly('GET /readyz HTTP/1.0\r\n\r\n')).toMatch(/^HTTP\/1\.1 200/)
  expect((await ask('/sign-in', { host: new URL(addressOf()).host })).status).toBe(200)
})

test('a NUL in a query, and ids of nothing, get a sentence and no fault of ours', async ({ page }) => {
  const nul = await page.request.get('/gear?q=a%00b')
  expect(nul.status()).toBe(400)
  expect(await nul.text()).toContain('NUL')
  const nothing = ['999999', '99999999999', '0', '-1', 'x', '1.5', '2147483648']
  for (const path of ['/gear', '/alerts', '/sources', '/alerts/rules', '/alerts/callouts', '/gear/groups'])
    for (const id of nothing) {
      const reply = await page.request.get(`${path}/${id}`)
      expect([200, 400, 404], `${path}/${id} answers ${reply.status()}`).toContain(reply.status())
    }
  for (const query of [
    '/?gear=99999999999',
    '/alerts?before=99999999999999',
    '/alerts?gear=2147483648',
    '/logs?gear=99999999999',
    '/logs?before=999999999999999999',
    '/rooms?room=99999999999',
    '/gear?group=99999999999',
    '/gear/changes?before=99999999999',
    '/gear/changes?gear=99999999999',
    '/sources/connect?edit=99999999999',
  ]) {
    const reply = await page.request.get(query)
    expect(reply.status(), query).toBeLessThan(500)
  }
})

test('streams of one account are bounded', async ({ page }) => {
  const cookie = (await page.context().cookies()).map(({ name, value }) => `${name}=${value}`).join('; ')
  const { hostname, port, host } = new URL(addressOf())
  const open = Array.from({ length: 40 }, () => {
    const socket = connect(Number(port), hostname)
    socket.write(`GET /live HTTP/1.1\r\nhost: ${host}\r\ncookie: ${cookie}\r\n\r\n`)
    return socket
  })
  const answers = await Promise.all(
    open.map(
      (socket) =>
        new Promise<string>((resolve) => socket.once('data', (data) => resolve(String(data).slice(9, 12)))),
    ),
  )
  expect(answers.filter((each) => each === '200').length).toBeLessThanOrEqual(30)
  expect(answers.filter((each) => each === '429').length).toBeGreaterThanOrEqual(10)
  for (const socket of open) socket.destroy()
})

test('bodies that never end are few, and in the way of nobody', async ({ page }) => {
  const { hostname, port, host, origin } = new URL(addressOf())
  let cut = 0
  const open = Array.from({ length: 300 }, () => {
    const socket = connect(Number(port), hostname)
    socket.on('error', () => undefined)
    socket.on('close', () => (cut += 1))
    socket.resume()
    socket.write(
      `POST /sign-in HTTP/1.1\r\nhost: ${host}\r\norigin: ${origin}\r\ncontent-type: application/x-www-form-urlencoded\r\ncontent-length: 100000\r\n\r\nemail=half`,
    )
    return socket
  })
  await Promise.all(open.map((socket) => new Promise((resolve) => socket.once('connect', resolve))))
  expect((await page.request.get('/gear')).status()).toBe(200)
  await expect.poll(() => cut, 'a hundred at a time').toBeGreaterThanOrEqual(200)
  const saved = await page.request.post('/own?/theme', {
    headers: { origin, accept: 'application/json', 'x-sveltekit-action': 'true' },
    form: { theme: 'system' },
  })
  expect(await saved.json(), 'a form is saved all the same').toMatchObject({ type: 'success', status: 200 })
  for (const socket of open) socket.destroy()
})

test('who may not send a file is answered, and not waited for', async () => {
  const { hostname, port, host, origin } = new URL(addressOf())
  const said: string[] = []
  let cut = 0
  for (let count = 0; count < 60; count += 1) {
    const socket = connect(Number(port), hostname)
    socket.on('error', () => undefined)
    socket.once('data', (data) => said.push(String(data).slice(9, 12)))
    socket.write(
      `POST /rooms?/importPlan HTTP/1.1\r\nhost: ${host}\r\norigin: ${origin}\r\ncontent-type: multipart/form-data; boundary=x\r\ncontent-length: 900000\r\n\r\n`,
    )
    const drip = setInterval(() => socket.write(Buffer.alloc(1024, 32)), 250)
    socket.on('close', () => {
      cut += 1
      clearInterval(drip)
    })
  }
  await expect.poll(() => cut).toBe(60)
  expect(said).toContain('401')
  // Of too many at once the others are told so.
  expect(said.filter((each) => !['401', '503'].includes(each))).toEqual([])
})
