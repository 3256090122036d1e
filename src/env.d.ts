/// <reference types="astro/client" />
declare namespace App {
  interface Locals {
    /** Resolves when whoever asked has taken what was sent to it; our own server gives it. */
    drained?: () => Promise<void>;
  }
}
declare module '*?nodeworker' {
  const url: string;
  export default url;
}
