package org.mnemex.sync.postgres;

import java.net.InetAddress;
import java.net.Socket;
import java.util.Map;
import java.util.Objects;
import java.util.Properties;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicReference;
import javax.net.SocketFactory;
import org.jspecify.annotations.Nullable;
import org.postgresql.PGProperty;

/**
 * Makes the sockets of connections whose arrivals are waited for. The driver makes a factory by its
 * name, maybe on a thread of its own, so what it has made is told by a name that the connection's
 * properties carry.
 */
public final class ArrivalSocketFactory extends SocketFactory {
  private static final Map<String, AtomicReference<@Nullable ArrivalSocket>> MADE =
      new ConcurrentHashMap<>();

  private final AtomicReference<@Nullable ArrivalSocket> made;

  /** A factory as the driver makes it. */
  public ArrivalSocketFactory(Properties properties) {
    // A connection that was given up may still be tried on the driver's thread.
    made =
        MADE.getOrDefault(
            PGProperty.SOCKET_FACTORY_ARG.getOrDefault(properties), new AtomicReference<>());
  }

  /** Sets what makes the driver use it; returns the name to {@link #take} the socket by. */
  static String use(Properties properties) {
    String name = UUID.randomUUID().toString();
    PGProperty.SOCKET_FACTORY.set(properties, ArrivalSocketFactory.class.getName());
    PGProperty.SOCKET_FACTORY_ARG.set(properties, name);
    MADE.put(name, new AtomicReference<>());
    return name;
  }

  /** The last socket that was made under a name: those before it did not lead to a connection. */
  static ArrivalSocket take(String name) {
    return Objects.requireNonNull(Objects.requireNonNull(MADE.remove(name)).get());
  }

  /** Forgets a name that led to no connection. */
  static void forget(String name) {
    MADE.remove(name);
  }

  @Override
  public Socket createSocket() {
    ArrivalSocket socket = new ArrivalSocket();
    made.set(socket);
    return socket;
  }

  @Override
  public Socket createSocket(String host, int port) {
    throw new UnsupportedOperationException("the driver connects it");
  }

  @Override
  public Socket createSocket(String host, int port, InetAddress localHost, int localPort) {
    throw new UnsupportedOperationException("the driver connects it");
  }

  @Override
  public Socket createSocket(InetAddress host, int port) {
    throw new UnsupportedOperationException("the driver connects it");
  }

  @Override
  public Socket createSocket(
      InetAddress address, int port, InetAddress localAddress, int localPort) {
    throw new UnsupportedOperationException("the driver connects it");
  }
}
