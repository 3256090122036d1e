import { type ErrorData, type ErrorTag, type Issue } from '#core/errors';
import type { CostFrame, LiquidCostFrame } from '#core/cost';
import type { Settings, ShotFields, ShotFile, SolveKind, SolveSettings } from '#core/shot';
import type {
  AnyRunDto,
  DraftDto,
  EvidenceDto,
  GeometryInfo,
  LongerDto,
  PassDetailDto,
  RunDetailDto,
  ShotDto,
  ShotRowDto,
  StatusDto,
  VerifiedDto,
} from '#protocol';

/** A refusal of the server, with its tag. */
export class ApiError extends Error {
  constructor(readonly data: ErrorData) {
    super(data.message);
  }
  get tag(): ErrorTag {
    return this.data.tag;
  }
  get issues(): readonly Issue[] {
    return (this.data.fields['issues'] as readonly Issue[] | undefined) ?? [];
  }
}

/** Of a request that outlives its page, characters: browsers take 64 KiB in all. */
const OUTLIVES = 30_000;

const OFFLINE: ErrorData = { tag: 'internal', message: 'The server does not answer. Is it still running?', fields: {}, cause: null };

async function refusalOf(response: Response): Promise<ApiError> {
  const body = (await response.json().catch(() => null)) as { error?: ErrorData } | null;
  return new ApiError(body?.error ?? { ...OFFLINE, message: `The server answered ${String(response.status)}.` });
}

async function request<T>(method: string, path: string, json?: unknown, signal?: AbortSignal): Promise<T> {
  const body = json === undefined ? null : JSON.stringify(json);
  const response = await fetch(`/api${path}`, {
    method,
    // What is on its way when the page is left still arrives: a browser holds on to so much of it.
    ...(body === null
      ? {}
      : { body, headers: { 'content-type': 'application/json' }, keepalive: method === 'PUT' && body.length < OUTLIVES }),
    ...(signal ? { signal } : {}),
  }).catch((cause: unknown) => {
    if (signal?.aborted) throw cause;
    throw new ApiError(OFFLINE);
  });
  if (!response.ok) throw await refusalOf(response);
  return (await response.json()) as T;
}

async function upload<T>(path: string, file: File, signal?: AbortSignal): Promise<T> {
  const response = await fetch(`/api${path}`, {
    method: 'POST',
    body: file,
    headers: { 'content-type': 'application/octet-stream' },
    ...(signal ? { signal } : {}),
  }).catch((cause: unknown) => {
    if (signal?.aborted) throw cause;
    throw new ApiError(OFFLINE);
  });
  const answer = (await response.json().catch(() => null)) as { error?: ErrorData } | null;
  if (!response.ok) throw new ApiError(answer?.error ?? { ...OFFLINE, message: `The server answered ${String(response.status)}.` });
  return answer as T;
}

const post = { method: 'POST' } as const;

export const api = {
  status: () => request<StatusDto>('GET', '/status'),
  shots: () => request<ShotRowDto[]>('GET', '/shots'),
  shot: (id: string) => request<ShotDto>('GET', `/shots/${id}`),
  importShot: (file: ShotFile) => request<ShotDto>('POST', '/shots', file),
  setShot: (id: string, fields: ShotFields, revision: number) => request<ShotDto>('PUT', `/shots/${id}/fields`, { fields, revision }),
  run: (id: string) => request<RunDetailDto>('GET', `/runs/${id}`),
  passRun: (id: string) => request<PassDetailDto>('GET', `/runs/${id}`),
  saveDraft: (variantId: string, settings: Settings, revision: number) =>
    request<{ draft: DraftDto | null; revision: number }>('PUT', `/variants/${variantId}/draft`, { settings, revision }),
  rename: (variantId: string, name: string) => request<ShotDto>('PUT', `/variants/${variantId}/name`, { name }),
  start: (variantId: string, rung: 'test' | 'final', how: { readonly overBudget?: boolean; readonly pass?: string } = {}) =>
    request<AnyRunDto>(post.method, '/runs', { variantId, rung, ...how }),
  /** A blank one is of a kind. */
  newShot: (name: string, from: string | null, kind?: SolveKind) =>
    request<ShotDto>('POST', '/new-shots', { name, from, ...(kind ? { kind } : {}) }),
  duplicate: (variantId: string) => request<{ id: string }>(post.method, `/variants/${variantId}/duplicate`, {}),
  deleteVariant: (variantId: string) => request<object>(post.method, `/variants/${variantId}/delete`, {}),
  deleteShot: (shotId: string, sure: boolean) => request<object>(post.method, `/shots/${shotId}/delete`, { sure }),
  restoreShot: (shotId: string) => request<object>(post.method, `/shots/${shotId}/restore`, {}),
  restoreVariant: (variantId: string) => request<object>(post.method, `/variants/${variantId}/restore`, {}),
  setNotes: (runId: string, notes: string) => request<AnyRunDto>('PUT', `/runs/${runId}/notes`, { notes }),
  evidence: (shot: string) => request<EvidenceDto>('GET', `/shots/${shot}/evidence`),
  keepSketch: (shotId: string, settings: SolveSettings, factor: number, frames: readonly (CostFrame | LiquidCostFrame)[]) =>
    request<object>(post.method, `/shots/${shotId}/sketches`, { settings, factor, frames }),
  sketching: (on: boolean) => request<object>(post.method, '/sketching', { on }),
  cancel: (runId: string) => request<AnyRunDto>(post.method, `/runs/${runId}/cancel`, {}),
  /** A frame of a run whose frames need no others is computed before the rest. */
  first: (runId: string, frame: number) => request<object>(post.method, `/runs/${runId}/first`, { frame }),
  /** What is missing or damaged of it is computed. */
  goOn: (runId: string, how: { readonly longer?: boolean; readonly overBudget?: boolean } = {}) =>
    request<AnyRunDto>(post.method, `/runs/${runId}/continue`, how),
  longer: (runId: string) => request<LongerDto | null>('GET', `/runs/${runId}/longer`),
  verify: (runId: string) => request<VerifiedDto>(post.method, `/runs/${runId}/verify`, {}),
  rawUrl: (shot: string): string => `/api/shots/${shot}/raw`,
  setApproved: (runId: string, approved: boolean) => request<AnyRunDto>('PUT', `/runs/${runId}/approved`, { approved }),
  free: (runId: string, sure = false) => request<AnyRunDto>(post.method, `/runs/${runId}/free`, { sure }),
  restore: (runId: string) => request<AnyRunDto>(post.method, `/runs/${runId}/restore`, {}),
  /** Sends a mesh or a signed distance; what is in it comes back. */
  importGeometry: (file: File, id: string, signal: AbortSignal) =>
    upload<GeometryInfo>(`/geometry?file=${encodeURIComponent(file.name)}&import=${id}`, file, signal),
  stillUrl: (runId: string, frame: number): string => `/api/runs/${runId}/frames/${String(frame)}/picture`,
  pictureUrl: (hash: string): string => `/api/geometry/${hash}/picture`,
  importBundle: (file: File) => upload<ShotDto>(`/bundles?file=${encodeURIComponent(file.name)}`, file),
  /** `bounds`: which of the run's. */
  async frame(
    runId: string,
    frame: number,
    channel: string,
    { bounds = 0, signal }: { readonly bounds?: number; readonly signal?: AbortSignal } = {},
  ): Promise<Uint8Array<ArrayBuffer>> {
    const response = await fetch(
      `/api/runs/${runId}/frames/${String(frame)}/${channel}?bounds=${String(bounds)}`,
      signal ? { signal } : {},
    ).catch((cause: unknown) => {
      if (signal?.aborted) throw cause;
      throw new ApiError(OFFLINE);
    });
    if (!response.ok) throw await refusalOf(response);
    return new Uint8Array(await response.arrayBuffer());
  },
};
