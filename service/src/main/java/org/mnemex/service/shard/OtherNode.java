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
import org.jspecify.annotations.Nullable;
import org.mnemex.service.compute.Repeated;
import tools.jackson.core.JacksonException;

/** Another search node: what it has, as it says again and again, and its answers. */
final class OtherNode implements AutoCloseable {
  private static final Duration PAUSE = Duration.ofMillis(200);
  private static final Duration TELLING = Duration.ofSeconds(3);

  /** Longer than any search may take: the node itself ends those that take too long. */
  private static final Duration ANSWERING = Duration.ofSeconds(90);

  private static final int OK = 200;

  private final Placement.Node node;
  private final HttpClient http;
  private final @Nullable Path keyFile;
  private final Repeated listening;
  private volatile List<Held> held = List.of();
  private volatile @Nullable String problem = "it has not been asked yet";

  /**
   * @param keyFile a file with a key for it; null if it wants none
   */
  OtherNode(Placement.Node node, HttpClient http, @Nullable Path keyFile) {
    this.node = node;
    this.http = http;
    this.keyFile = keyFile;
    this.listening = new Repeated("asking node " + node.name(), () -> PAUSE, this::listen);
  }

  Placement.Node node() {
    return node;
  }

  /** What it has; nothing while it does not answer. */
  List<Held> held() {
    return problem == null ? held : List.of();
  }

  /** Why it does not answer, or null. */
  @Nullable String problem() {
    return problem;
  }

  private boolean listen() throws IOException {
    try {
      HttpRequest request = request("/api/shards", TELLING).GET().build();
      held = List.of(ShardJson.read(sent(request), Held[].class));
      problem = null;
      return true;
    } catch (IOException | JacksonException e) {
      note(e);
      throw e;
    }
  }

  private void note(Exception e) {
    problem = e.getMessage() == null ? "it cannot be reached" : e.getMessage();
  }

  /**
   * Asks it.
   *
   * @throws ShardAwayException if it does not answer; it is not asked again before it is heard of
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
      note(e);
      throw new ShardAwayException(
          "node '%s' at %s does not answer: %s".formatted(node.name(), node.url(), problem), e);
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
    try {
      HttpResponse<byte[]> answer = http.send(request, HttpResponse.BodyHandlers.ofByteArray());
      if (answer.statusCode() != OK) {
        throw new IOException("it answers with status " + answer.statusCode());
      }
      return answer.body();
    } catch (InterruptedException e) {
      // Not its fault: nobody waits for its answer any more.
      Thread.currentThread().interrupt();
      throw new ShardAwayException("the call was given up", e);
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
