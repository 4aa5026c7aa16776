// Types of what scripts find in the browser besides its standard interfaces.
interface HtmxEvents {
  "htmx:after:request": CustomEvent;
  "htmx:before:response": CustomEvent;
  "htmx:config:request": CustomEvent;
  "htmx:finally:request": CustomEvent;
  "htmx:sse:after:connection": CustomEvent;
  scale: CustomEvent; // a server-sent event of the Brew station
}

interface DocumentEventMap extends HtmxEvents {}
interface ElementEventMap extends HtmxEvents {}

interface Window {
  htmx: { ajax(method: string, path: string, options: { source: Element }): Promise<void> };
}

// The decoder of codes, which TypeScript does not know yet.
declare class BarcodeDetector {
  constructor(options: { formats: string[] });
  detect(source: HTMLVideoElement): Promise<{ rawValue: string }[]>;
}

// Of the service worker: the folder of this version's static files, which the server prepends.
declare const STATIC: string;
