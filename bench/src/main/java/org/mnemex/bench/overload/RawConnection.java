package org.mnemex.bench.overload;

import java.io.BufferedInputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.Locale;

/** A connection to the service that costs a client as little as possible. */
final class RawConnection implements AutoCloseable {
  private static final int TIMEOUT_MILLIS = 60_000;
  private static final int HEX = 16;

  private final String host;
  private final Socket socket;
  private final InputStream in;
  private boolean closing;

  RawConnection(URI service) throws IOException {
    host = service.getAuthority();
    socket = new Socket(service.getHost(), service.getPort());
    socket.setTcpNoDelay(true);
    socket.setSoTimeout(TIMEOUT_MILLIS);
    in = new BufferedInputStream(socket.getInputStream());
  }

  /** Sends the head of a request: its first line, then further lines without the host's. */
  void send(String line, String... headers) throws IOException {
    StringBuilder head = new StringBuilder(line).append(" HTTP/1.1\r\nHost: ").append(host);
    for (String header : headers) {
      head.append("\r\n").append(header);
    }
    send(head.append("\r\n\r\n").toString().getBytes(StandardCharsets.ISO_8859_1));
  }

  /** Sends bytes of a body. */
  void send(byte[] bytes) throws IOException {
    OutputStream out = socket.getOutputStream();
    out.write(bytes);
    out.flush();
  }

  /** Asks and reads the whole answer; its status. */
  int get(String path) throws IOException {
    send("GET " + path);
    return answer();
  }

  /** Reads an answer; its status. */
  int answer() throws IOException {
    int status = status();
    long length = 0;
    boolean chunked = false;
    for (String header = line(); !header.isEmpty(); header = line()) {
      String lower = header.toLowerCase(Locale.ROOT);
      if (lower.startsWith("content-length:")) {
        length = Long.parseLong(lower.substring(lower.indexOf(':') + 1).strip());
      }
      chunked |= lower.equals("transfer-encoding: chunked");
      closing |= lower.equals("connection: close");
    }
    if (!chunked) {
      in.skipNBytes(length);
      return status;
    }
    for (long size = chunk(); size > 0; size = chunk()) {
      in.skipNBytes(size + 2);
    }
    line();
    return status;
  }

  /** The first line of an answer; its status. */
  int status() throws IOException {
    return Integer.parseInt(line().split(" ", 3)[1]);
  }

  private long chunk() throws IOException {
    return Long.parseLong(line(), HEX);
  }

  /** Whether the service closes the connection after the last answer. */
  boolean isClosing() {
    return closing;
  }

  /** Reads a line, without its end. */
  String line() throws IOException {
    StringBuilder line = new StringBuilder();
    for (int c = in.read(); c != '\n'; c = in.read()) {
      if (c < 0) {
        throw new EOFException("the service closed the connection");
      }
      if (c != '\r') {
        line.append((char) c);
      }
    }
    return line.toString();
  }

  @Override
  public void close() throws IOException {
    socket.close();
  }
}
