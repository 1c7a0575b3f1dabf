package org.mnemex.sync.mariadb;

import com.github.shyiko.mysql.binlog.BinaryLogClient;
import com.github.shyiko.mysql.binlog.event.Event;
import com.github.shyiko.mysql.binlog.event.EventType;
import com.github.shyiko.mysql.binlog.event.deserialization.EventDeserializer;
import com.github.shyiko.mysql.binlog.network.DefaultSSLSocketFactory;
import com.github.shyiko.mysql.binlog.network.SSLMode;
import com.github.shyiko.mysql.binlog.network.ServerException;
import java.io.IOException;
import java.security.GeneralSecurityException;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.ThreadLocalRandom;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;
import org.mnemex.sync.definition.SourceDefinition;
import org.mnemex.sync.definition.Tls;
import org.mnemex.sync.source.PositionLostException;

/**
 * Receives the events of the binary log on its own thread, as a replica would. The queue is short:
 * while it is full, nothing is read from the network, and the server waits.
 */
final class BinlogStream implements AutoCloseable {
  private static final int QUEUE = 4096;
  private static final int CONNECT_MILLIS = 10_000;
  private static final String PROTOCOL = "TLS";
  private static final int HEARTBEAT_MILLIS = 10_000;

  /** Without a heartbeat for this long, the connection is considered lost. */
  private static final long SILENCE_NANOS = TimeUnit.SECONDS.toNanos(60);

  /** The server's errors for a position that the log no longer has, or never had. */
  private static final int CANNOT_SEND_LOG = 1236;

  /** The server's error for a log file that ends in half an event. */
  private static final String HALF_AN_EVENT = "truncated in the middle of event";

  /** The offset of a file's first event, after the four magic bytes. */
  private static final long FIRST_EVENT = 4;

  /** A range of replica numbers that others are unlikely to use. */
  private static final long FIRST_REPLICA = 0x6000_0000L;

  private final BinaryLogClient client;
  private final BlockingQueue<Event> events = new ArrayBlockingQueue<>(QUEUE);
  private final Thread thread;
  private volatile @Nullable Exception failure;
  private volatile boolean closing;
  private volatile long lastEvent = System.nanoTime();

  /**
   * Starts receiving.
   *
   * @param gtids position of the last transaction to skip; empty for none
   */
  BinlogStream(SourceDefinition.Server server, String gtids) {
    this(server, client -> client.setGtidSet(gtids));
  }

  /** Starts receiving a log file from its start. */
  static BinlogStream ofFile(SourceDefinition.Server server, String file) {
    return new BinlogStream(
        server,
        client -> {
          client.setBinlogFilename(file);
          client.setBinlogPosition(FIRST_EVENT);
        });
  }

  private BinlogStream(SourceDefinition.Server server, Consumer<BinaryLogClient> beginning) {
    client =
        new BinaryLogClient(
            server.host(), server.port(), server.user(), server.password().reveal());
    client.setServerId(FIRST_REPLICA + ThreadLocalRandom.current().nextInt(1 << 28));
    encrypt(server.tls());
    beginning.accept(client);
    client.setKeepAlive(false);
    client.setConnectTimeout(CONNECT_MILLIS);
    client.setHeartbeatInterval(HEARTBEAT_MILLIS);
    EventDeserializer deserializer = new EventDeserializer();
    deserializer.setCompatibilityMode(
        EventDeserializer.CompatibilityMode.DATE_AND_TIME_AS_LONG_MICRO,
        EventDeserializer.CompatibilityMode.INVALID_DATE_AND_TIME_AS_MIN_VALUE,
        EventDeserializer.CompatibilityMode.CHAR_AND_BINARY_AS_BYTE_ARRAY);
    client.setEventDeserializer(deserializer);
    client.registerEventListener(this::receive);
    client.registerLifecycleListener(
        new BinaryLogClient.AbstractLifecycleListener() {
          @Override
          public void onConnect(BinaryLogClient from) {
            if (closing) {
              // It was closed before there was a connection.
              disconnect();
            }
          }

          @Override
          public void onCommunicationFailure(BinaryLogClient from, Exception cause) {
            fail(cause);
          }

          @Override
          public void onEventDeserializationFailure(BinaryLogClient from, Exception cause) {
            // An unreadable event must not be skipped.
            fail(cause);
          }
        });
    thread = Thread.ofPlatform().daemon().name("binlog of " + server.name()).start(this::run);
  }

  private void encrypt(Tls tls) {
    switch (tls.mode()) {
      case USUAL -> {}
      case REQUIRE -> client.setSSLMode(SSLMode.REQUIRED);
      case VERIFY_CA -> client.setSSLMode(SSLMode.VERIFY_CA);
      case VERIFY_FULL -> client.setSSLMode(SSLMode.VERIFY_IDENTITY);
    }
    if (tls.authorities() != null || tls.identity() != null) {
      client.setSslSocketFactory(
          new DefaultSSLSocketFactory(PROTOCOL) {
            @Override
            protected void initSSLContext(SSLContext context) throws GeneralSecurityException {
              try {
                context.init(tls.keys(), tls.trust(), null);
              } catch (IOException e) {
                throw new GeneralSecurityException(e);
              }
            }
          });
    }
  }

  private void run() {
    try {
      client.connect();
      fail(new IOException("the server has closed the connection"));
    } catch (IOException | RuntimeException e) {
      fail(e);
    }
  }

  private void fail(Exception cause) {
    if (failure == null) {
      failure = cause;
    }
  }

  private void receive(Event event) {
    lastEvent = System.nanoTime();
    try {
      while (!closing && !events.offer(event, 1, TimeUnit.SECONDS)) {
        // The consumer is busy.
        lastEvent = System.nanoTime();
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      fail(e);
    }
  }

  /**
   * The next event, or null if none was free in time.
   *
   * @throws PositionLostException if the server does not have the position asked for
   * @throws CutLogException if the file of the log ends in half an event
   * @throws IOException if the connection was lost
   */
  @Nullable Event poll(long nanos) throws IOException, InterruptedException {
    // Checked before the queue: events received before a failure are not lost.
    Exception cause = failure;
    Event event = cause == null ? events.poll(nanos, TimeUnit.NANOSECONDS) : events.poll();
    if (event != null) {
      return event;
    }
    if (cause instanceof ServerException server
        && server.getErrorCode() == CANNOT_SEND_LOG
        && String.valueOf(server.getMessage()).contains(HALF_AN_EVENT)) {
      throw new CutLogException(String.valueOf(server.getMessage()), server);
    }
    if (cause instanceof ServerException server && server.getErrorCode() == CANNOT_SEND_LOG) {
      throw new PositionLostException(
          "the server does not have the log since the last position: " + server.getMessage());
    }
    if (cause != null) {
      throw new IOException("the binary log cannot be read: " + cause.getMessage(), cause);
    }
    if (System.nanoTime() - lastEvent > SILENCE_NANOS) {
      throw new IOException("the server has not sent anything for a minute");
    }
    return null;
  }

  /**
   * When the received file was started, in seconds since 1970.
   *
   * @throws IOException if the server does not say
   */
  long begun() throws IOException, InterruptedException {
    while (true) {
      Event event = poll(TimeUnit.SECONDS.toNanos(1));
      if (event != null && event.getHeader().getEventType() == EventType.FORMAT_DESCRIPTION) {
        return TimeUnit.MILLISECONDS.toSeconds(event.getHeader().getTimestamp());
      }
    }
  }

  @Override
  public void close() {
    closing = true;
    events.clear();
    disconnect();
  }

  private void disconnect() {
    try {
      client.disconnect();
    } catch (IOException e) {
      // It was broken already.
      return;
    }
  }

  /** Waits until the receiving thread has ended; only after {@link #close}. */
  void join() throws InterruptedException {
    thread.join();
  }
}
