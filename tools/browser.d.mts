import type { Browser, Page } from 'playwright-core';

export function openBrowser(): Promise<Browser>;
export function signIn(page: Page, origin: string, name: string, password: string): Promise<void>;
