package org.mnemex.service.shard;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CancellationException;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicLong;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.compute.Repeated;
import tools.jackson.core.JacksonException;

/** Another search node: what it has, as it says again and again, and its answers. */
final class OtherNode implements AutoCloseable {
  private static final Duration PAUSE = Duration.ofMillis(50);

  /** The same while it does not answer. */
  private static final Duration LONGER_PAUSE = Duration.ofMillis(200);

  /** While nothing changes, a node is silent for so long. */
  private static final Duration SILENT = Duration.ofMillis(500);

  /** A node that says nothing for so long does not answer. */
  private static final Duration TELLING = Duration.ofSeconds(2);

  /** Longer than a search may take: the node itself ends those that take too long. */
  private static final Duration ANSWERING = Duration.ofSeconds(90);

  private static final int OK = 200;

  private volatile Placement.Node node;
  private final HttpClient http;
  private final @Nullable Path keyFile;
  private final Repeated listening;

  /** The calls that it has not answered yet, by their numbers. */
  private final Map<Long, Future<?>> calls = new ConcurrentHashMap<>();

  private final AtomicLong number = new AtomicLong();
  private volatile ShardsHere held = new ShardsHere("", List.of());
  private volatile @Nullable String problem = "it has not been asked yet";

  /**
   * @param keyFile a file with a key for it; null if it wants none
   */
  OtherNode(Placement.Node node, HttpClient http, @Nullable Path keyFile) {
    this.node = node;
    this.http = http;
    this.keyFile = keyFile;
    this.listening =
        new Repeated(
            "asking node " + node.name(),
            () -> problem == null ? PAUSE : LONGER_PAUSE,
            this::listen);
  }

  Placement.Node node() {
    return node;
  }

  /** Whether it is this one, whichever shards it is to have. */
  boolean is(Placement.Node other) {
    return node.name().equals(other.name()) && node.url().equals(other.url());
  }

  /** Says which shards it is to have from now on. */
  void place(Placement.Node other) {
    node = other;
  }

  /** What it has; nothing while it does not answer. */
  List<Held> held() {
    return problem == null ? held.shards() : List.of();
  }

  /** Why it does not answer, or null. */
  @Nullable String problem() {
    return problem;
  }

  /** How many calls it has not answered yet. */
  int unanswered() {
    return calls.size();
  }

  private boolean listen() throws IOException {
    try {
      // One that did not answer is to say at once whether it does now.
      String path =
          problem == null
              ? "/api/shards?known=%s&wait=%d".formatted(held.upTo(), SILENT.toMillis())
              : "/api/shards";
      held = ShardJson.read(sent(request(path, TELLING).GET().build()), ShardsHere.class);
      problem = null;
      return true;
    } catch (IOException | JacksonException e) {
      problem = why(e);
      // Whoever waits for it may ask another one.
      calls.values().forEach(call -> call.cancel(true));
      throw new IOException(why(e), e);
    }
  }

  private static String why(Exception e) {
    return e.getMessage() == null ? "it cannot be reached" : e.getMessage();
  }

  /**
   * Asks it.
   *
   * @throws ShardAwayException if it does not answer
   */
  ShardAnswer ask(ShardQuestion question) {
    try {
      HttpRequest request =
          request("/api/shards", ANSWERING)
              .header("Content-Type", "application/json")
              .POST(HttpRequest.BodyPublishers.ofByteArray(ShardJson.written(question)))
              .build();
      return ShardJson.read(sent(request), ShardAnswer.class);
    } catch (IOException | JacksonException e) {
      wake();
      throw new ShardAwayException(
          "node '%s' at %s does not answer: %s".formatted(node.name(), node.url(), why(e)), e);
    }
  }

  private HttpRequest.Builder request(String path, Duration timeout) throws IOException {
    URI call = node.url().resolve(path);
    HttpRequest.Builder request = HttpRequest.newBuilder(call).timeout(timeout);
    if (keyFile != null) {
      // Read each time, so that it may be replaced.
      request.header("Authorization", "Bearer " + Files.readString(keyFile).strip());
    }
    return request;
  }

  private byte[] sent(HttpRequest request) throws IOException {
    Future<HttpResponse<byte[]>> call =
        http.sendAsync(request, HttpResponse.BodyHandlers.ofByteArray());
    long own = number.incrementAndGet();
    calls.put(own, call);
    try {
      HttpResponse<byte[]> answer = call.get();
      if (answer.statusCode() != OK) {
        throw new IOException("it answers with status " + answer.statusCode());
      }
      return answer.body();
    } catch (InterruptedException e) {
      // Nobody waits for its answer any more.
      call.cancel(true);
      Thread.currentThread().interrupt();
      throw new ShardAwayException("the call was given up", e);
    } catch (CancellationException e) {
      throw new IOException("it says nothing any more", e);
    } catch (ExecutionException e) {
      throw e.getCause() instanceof IOException known ? known : new IOException(e.getCause());
    } finally {
      calls.remove(own);
    }
  }

  /** Looks at once what it has. */
  void wake() {
    listening.wake();
  }

  @Override
  public void close() {
    listening.close();
  }
}
