package org.mnemex.service.node;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.net.InetAddress;
import java.net.URI;
import java.net.UnknownHostException;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.TrustedServers;
import org.mnemex.service.compute.Repeated;
import org.mnemex.service.insight.CountsToPass;
import org.mnemex.service.insight.RecordedSearches;
import org.mnemex.service.publish.Following;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.web.server.context.WebServerInitializedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * Tells the builder of a search node how it is and what was searched for, and takes over what is
 * new as soon as the builder says so.
 */
@Component
public class Reporting {
  private static final Logger LOG = LoggerFactory.getLogger(Reporting.class);
  private static final Duration CONNECTING = Duration.ofSeconds(5);
  private static final Duration ANSWERING = SearchNodes.PATIENCE.plusSeconds(10);
  private static final Duration LEAVING = Duration.ofSeconds(2);

  /** What has been fetched by then is reported; the rest is the next time. */
  private static final Duration FETCHING = Duration.ofSeconds(10);

  /** Much that is written at the same time is fetched together. */
  private static final Duration BREATH = Duration.ofMillis(20);

  /** How old the words that people search for may be here. */
  private static final Duration WORDS = Duration.ofMinutes(1);

  private static final Duration RETRY = Duration.ofSeconds(1);
  private static final int OK = 200;

  private final Following following;
  private final RecordedSearches recorded;
  private final JsonMapper json;
  private final MnemexSettings.Node settings;
  private final @Nullable SSLContext tls;
  private @Nullable HttpClient http;
  private @Nullable URI call;
  private @Nullable Repeated reporting;
  private @Nullable String known;

  /** When the words that people search for were taken over; 0: not yet. */
  private long wordsTaken;

  Reporting(
      Following following,
      RecordedSearches recorded,
      JsonMapper json,
      MnemexSettings settings,
      TrustedServers trusted) {
    this.following = following;
    this.recorded = recorded;
    this.json = json;
    this.settings = settings.node();
    URI builder = this.settings.builder();
    this.tls =
        builder == null
            ? null
            : trusted.connections("mnemex.node.ssl-bundle", this.settings.sslBundle());
    if (builder != null && !following.isOn()) {
      throw new SettingsException(
          "mnemex.node.builder is for search nodes; set --mnemex.role=search as well");
    }
    if (builder != null && (builder.getHost() == null || !builder.getScheme().startsWith("http"))) {
      throw new SettingsException(
          "mnemex.node.builder is an address such as http://builder.example:7077, not '%s'"
              .formatted(builder));
    }
  }

  @EventListener
  void onStart(WebServerInitializedEvent event) {
    URI builder = settings.builder();
    if (builder == null || http != null) {
      return;
    }
    HttpClient.Builder building =
        HttpClient.newBuilder()
            .connectTimeout(CONNECTING)
            .followRedirects(HttpClient.Redirect.NEVER);
    if (tls != null) {
      building.sslContext(tls);
    }
    http = building.build();
    call = builder.resolve("/api/nodes/" + name(event.getWebServer().getPort()));
    reporting = new Repeated("reporting", this::pause, () -> report(builder));
  }

  private String name(int port) {
    String given = settings.name();
    return given == null ? host() + "-" + port : given;
  }

  private static String host() {
    try {
      return InetAddress.getLocalHost().getHostName().replaceAll("[^A-Za-z0-9.-]", "-");
    } catch (UnknownHostException e) {
      return "node";
    }
  }

  private Duration pause() {
    Repeated now = reporting;
    return now == null || now.problem() == null ? BREATH : RETRY;
  }

  private boolean report(URI builder) throws IOException {
    CountsToPass counts = recorded.toPass();
    CountsToPass.Batch batch = counts == null ? null : counts.next();
    boolean wantsWords = wordsTaken == 0 || System.nanoTime() - wordsTaken > WORDS.toNanos();
    NodeNews news;
    try {
      news = told(new NodeReport(known, following.view(), batch, wantsWords));
    } catch (IOException | RuntimeException e) {
      String why = e.getMessage() == null ? "it cannot be reached" : e.getMessage();
      String problem = "the builder at %s gives no news: %s".formatted(builder, why);
      following.builder(builder.toString(), problem);
      throw new IOException(problem, e);
    }
    if (batch != null && counts != null) {
      counts.arrived(batch);
    }
    if (news.words() != null) {
      recorded.takeAsked(news.words());
      wordsTaken = System.nanoTime();
    }
    following.builder(builder.toString(), null);
    if (news.objects() == null || !news.objects().isEmpty()) {
      try {
        following.follow(news.objects(), FETCHING);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return false;
      }
    }
    known = news.upTo();
    return true;
  }

  private NodeNews told(NodeReport report) throws IOException {
    HttpResponse<String> answer =
        send(
            request(ANSWERING)
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofByteArray(json.writeValueAsBytes(report)))
                .build());
    try {
      if (answer.statusCode() != OK) {
        throw new IOException(
            "it answers with status %d: %s"
                .formatted(
                    answer.statusCode(), json.readTree(answer.body()).path("detail").asString("")));
      }
      return json.readValue(answer.body(), NodeNews.class);
    } catch (JacksonException e) {
      throw new IOException(
          "its answer, with status %d, is not understood; is it a builder of this version?"
              .formatted(answer.statusCode()),
          e);
    }
  }

  private HttpRequest.Builder request(Duration timeout) throws IOException {
    HttpRequest.Builder request = HttpRequest.newBuilder(call).timeout(timeout);
    Path keyFile = settings.keyFile();
    if (keyFile != null) {
      request.header("Authorization", "Bearer " + key(keyFile));
    }
    return request;
  }

  /** Read each time, so that it may be replaced. */
  private static String key(Path file) throws IOException {
    try {
      return Files.readString(file).strip();
    } catch (IOException e) {
      throw new IOException("the file of the key for it, %s, cannot be read".formatted(file), e);
    }
  }

  private HttpResponse<String> send(HttpRequest request) throws IOException {
    HttpClient client = http;
    if (client == null) {
      throw new IOException("it has not been asked yet");
    }
    try {
      return client.send(request, HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8));
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IOException("this service is stopping", e);
    }
  }

  /** Says goodbye, so that nobody misses this node. */
  @PreDestroy
  void stop() {
    Repeated now = reporting;
    HttpClient client = http;
    if (now == null || client == null) {
      return;
    }
    now.close();
    try {
      send(request(LEAVING).DELETE().build());
    } catch (IOException e) {
      LOG.debug("the builder does not know that this node has stopped", e);
    }
    client.close();
  }
}
