import '@fontsource-variable/hanken-grotesk';
import '@fontsource-variable/jetbrains-mono';
import { createElement } from 'react';
import { createRoot } from 'react-dom/client';
import { App } from './app';

const root = document.getElementById('ruddle');
if (root) createRoot(root).render(createElement(App));
