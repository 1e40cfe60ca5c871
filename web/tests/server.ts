/** A server in place of the real one: it answers requests as a test says, and remembers what it was asked. */
interface Asked {
  method: string;
  path: string;
  body: unknown;
}

type Answer = { status?: number; body?: unknown } | Promise<{ status?: number; body?: unknown }>;

export const asked: Asked[] = [];
const answers = new Map<string, (body: unknown) => Answer>();

/** Answer requests from now on. request: "PUT /api/materials/m1". */
export function answer(request: string, how: (body: unknown) => Answer): void {
  answers.set(request, how);
}

export function forgetAnswers(): void {
  asked.length = 0;
  answers.clear();
}

globalThis.fetch = async (given: RequestInfo | URL, init?: RequestInit) => {
  const request = given instanceof Request ? given : new Request(given, init);
  const path = new URL(request.url, "http://127.0.0.1").pathname;
  const text = await request.text();
  const body = text ? JSON.parse(text) : undefined;
  asked.push({ method: request.method, path, body });
  const how = answers.get(`${request.method} ${path}`);
  if (!how) return new Response("[]", { status: 200, headers: { "Content-Type": "application/json" } });
  const { status = 200, body: said } = await how(body);
  return new Response(JSON.stringify(said ?? null), { status, headers: { "Content-Type": "application/json" } });
};
