import type { APIRoute } from 'astro';
import { handleApi } from '#server/api';

export const prerender = false;
export const ALL: APIRoute = ({ request, locals }) => handleApi(request, locals.drained);
