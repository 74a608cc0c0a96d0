import type { Browser, Page } from 'playwright-core';

export function openBrowser(args?: readonly string[]): Promise<Browser>;
export function signIn(page: Page, origin: string, name: string, password: string): Promise<void>;
