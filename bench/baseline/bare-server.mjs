// Node's own http server, answering 202 to everything.
import http from 'node:http';

const server = http.createServer((req, res) => {
  req.resume();
  res.writeHead(202, { 'content-type': 'application/json', 'content-length': 11 });
  res.end('{"ok":true}');
});
server.listen(0, '127.0.0.1', () => console.log(`ready ${JSON.stringify({ port: server.address().port })}`));
