package org.mnemex.service.shard;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.apache.hc.client5.http.classic.HttpClient;
import org.apache.hc.client5.http.classic.methods.HttpGet;
import org.apache.hc.client5.http.classic.methods.HttpPost;
import org.apache.hc.client5.http.classic.methods.HttpUriRequestBase;
import org.apache.hc.client5.http.config.RequestConfig;
import org.apache.hc.core5.http.ContentType;
import org.apache.hc.core5.http.io.entity.ByteArrayEntity;
import org.apache.hc.core5.http.io.entity.EntityUtils;
import org.apache.hc.core5.util.Timeout;
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
  private static final RequestConfig TELLING = within(Duration.ofSeconds(2));

  /** Longer than a search may take: the node itself ends those that take too long. */
  private static final RequestConfig ANSWERING = within(Duration.ofSeconds(90));

  private static final int OK = 200;

  private volatile Placement.Node node;
  private final HttpClient http;
  private final @Nullable Path keyFile;
  private final Repeated listening;

  /** The calls that it has not answered yet. */
  private final Set<HttpUriRequestBase> calls = ConcurrentHashMap.newKeySet();

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
      held = ShardJson.read(sent(new HttpGet(address(path)), TELLING), ShardsHere.class);
      problem = null;
      return true;
    } catch (IOException | JacksonException e) {
      problem = why(e);
      // Whoever waits for it may ask another one.
      calls.forEach(HttpUriRequestBase::cancel);
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
      HttpPost call = new HttpPost(address("/api/shards"));
      call.setEntity(
          new ByteArrayEntity(ShardJson.written(question), ContentType.APPLICATION_JSON));
      return ShardJson.read(sent(call, ANSWERING), ShardAnswer.class);
    } catch (IOException | JacksonException e) {
      wake();
      throw new ShardAwayException(
          "node '%s' at %s does not answer: %s".formatted(node.name(), node.url(), why(e)), e);
    }
  }

  private URI address(String path) {
    return node.url().resolve(path);
  }

  private static RequestConfig within(Duration patience) {
    return RequestConfig.custom().setResponseTimeout(Timeout.of(patience)).build();
  }

  private byte[] sent(HttpUriRequestBase call, RequestConfig patience) throws IOException {
    call.setConfig(patience);
    if (keyFile != null) {
      // Read each time, so that it may be replaced.
      call.setHeader("Authorization", "Bearer " + Files.readString(keyFile).strip());
    }
    calls.add(call);
    try {
      return http.execute(
          call,
          answer -> {
            if (answer.getCode() != OK) {
              throw new IOException("it answers with status " + answer.getCode());
            }
            return EntityUtils.toByteArray(answer.getEntity());
          });
    } catch (IOException e) {
      if (Thread.currentThread().isInterrupted()) {
        throw new ShardAwayException("the call was given up", e);
      }
      throw call.isAborted() ? new IOException("it says nothing any more", e) : e;
    } finally {
      calls.remove(call);
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
