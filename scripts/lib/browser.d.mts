import type { Browser } from 'puppeteer-core';

export const CHROMIUM_ARGUMENTS: string[];
export function findChromium(): string;
export function launchBrowser(): Promise<Browser>;
