package org.mnemex.sync.postgres;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;

/** Waiting takes nothing away, however what arrives is read in between. */
class ArrivalSocketTest {
  private static final int BYTES = 2000;
  private static final int WAIT_MILLIS = 5;

  @Property(tries = 20)
  void everythingArrivesInOrder(@ForAll long seed) throws Exception {
    Random random = new Random(seed);
    byte[] sent = new byte[BYTES];
    random.nextBytes(sent);
    try (ServerSocket server = new ServerSocket(0, 1, InetAddress.getLoopbackAddress());
        ArrivalSocket socket = new ArrivalSocket()) {
      socket.connect(server.getLocalSocketAddress());
      try (Socket sender = server.accept()) {
        assertThat(socket.awaitArrival(WAIT_MILLIS)).isFalse();
        assertThat(socket.hasArrived()).isFalse();
        assertThat(socket.getSoTimeout()).isZero();
        OutputStream out = sender.getOutputStream();
        InputStream in = socket.getInputStream();
        ByteArrayOutputStream received = new ByteArrayOutputStream();
        int at = 0;
        while (received.size() < BYTES) {
          if (at < BYTES && random.nextBoolean()) {
            int length = 1 + random.nextInt(Math.min(100, BYTES - at));
            out.write(sent, at, length);
            at += length;
          } else if (received.size() < at) {
            if (random.nextBoolean()) {
              assertThat(socket.awaitArrival(10_000)).isTrue();
              assertThat(socket.hasArrived()).isTrue();
              assertThat(in.available()).isPositive();
            }
            if (random.nextInt(4) == 0) {
              received.write(in.read());
            } else {
              byte[] part = new byte[1 + random.nextInt(50)];
              received.write(part, 0, in.read(part, 0, part.length));
            }
          }
        }
        assertThat(received.toByteArray()).isEqualTo(sent);
        sender.shutdownOutput();
        assertThat(socket.awaitArrival(10_000)).isTrue();
        assertThat(socket.awaitArrival(10_000)).isTrue();
        assertThat(in.read()).isEqualTo(-1);
        assertThat(in.read(new byte[5])).isEqualTo(-1);
      }
    }
  }
}
