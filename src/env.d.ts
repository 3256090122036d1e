/// <reference types="astro/client" />
declare module '*?nodeworker' {
  const url: string;
  export default url;
}
