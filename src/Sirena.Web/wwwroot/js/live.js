// One event stream for all pages of this browser; closed while none is visible.
const ports = new Map();
let stream = null, failing = null, at = null;

const tell = word => { for (const port of ports.keys()) port.postMessage(word); };

const look = () => {
  const wanted = [...ports.values()].some(visible => visible);
  if (wanted && !stream) {
    stream = new EventSource('/live');
    stream.onopen = () => { clearTimeout(failing); failing = null; tell('open'); };
    stream.addEventListener('at', e => { at = e.data; tell(`at ${at}`); });
    stream.onerror = () => {
      failing ??= setTimeout(() => tell('lost'), 4000);
      if (stream && stream.readyState === EventSource.CLOSED) { stream = null; setTimeout(look, 5000); }
    };
  } else if (!wanted && stream) {
    stream.close(); stream = at = null; clearTimeout(failing); failing = null;
  }
};

self.onconnect = e => {
  const port = e.ports[0];
  ports.set(port, false);
  port.onmessage = m => {
    if (m.data === 'gone') ports.delete(port); else ports.set(port, m.data === 'visible');
    if (m.data === 'visible' && at) port.postMessage(`at ${at}`);
    look();
  };
  port.start();
};
