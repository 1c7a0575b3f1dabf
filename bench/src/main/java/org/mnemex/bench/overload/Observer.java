package org.mnemex.bench.overload;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import org.mnemex.bench.SqliteGarden;
import org.mnemex.bench.Times;
import org.mnemex.garden.Garden;

/** Changes the database, administers the service and reads its metrics, now and then. */
final class Observer implements AutoCloseable {
  private static final List<String> CALLS =
      List.of("/api/overview", "/api/indexes/plants/editions", "/api/health-and-metrics/health");
  private static final String METRICS = "/api/health-and-metrics/metrics";
  private static final Duration TIMEOUT = Duration.ofSeconds(60);
  private static final long CHANGE_MILLIS = 200;
  private static final long CALL_MILLIS = 250;
  private static final int OK = 200;

  private final URI service;
  private final HttpClient http = HttpClient.newHttpClient();
  private final Times administration = new Times();
  private final List<Thread> threads = new ArrayList<>();
  private volatile double largestHeap;
  private volatile boolean ended;

  private Observer(URI service) {
    this.service = service;
  }

  static Observer start(URI service, SqliteGarden garden) {
    Observer observer = new Observer(service);
    observer.threads.add(Thread.ofPlatform().start(() -> observer.change(garden)));
    observer.threads.add(Thread.ofPlatform().start(observer::administer));
    return observer;
  }

  private void change(SqliteGarden garden) {
    try (Connection connection = garden.connect();
        PreparedStatement update =
            connection.prepareStatement("UPDATE accession SET notes = ? WHERE accession_no = ?")) {
      for (int i = 1; !ended; i++) {
        update.setString(1, "<p>Labelled " + System.nanoTime() + "</p>");
        update.setString(2, Garden.number(1 + i % 1_000));
        update.executeUpdate();
        Thread.sleep(CHANGE_MILLIS);
      }
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private void administer() {
    try {
      for (int i = 0; !ended; i++) {
        long start = System.nanoTime();
        get(CALLS.get(i % CALLS.size()));
        administration.add(System.nanoTime() - start);
        if (i % CALLS.size() == 0) {
          measure(get(METRICS));
        }
        Thread.sleep(CALL_MILLIS);
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private String get(String path) throws InterruptedException {
    try {
      HttpResponse<String> response =
          http.send(
              HttpRequest.newBuilder(service.resolve(path)).timeout(TIMEOUT).build(),
              HttpResponse.BodyHandlers.ofString());
      if (response.statusCode() != OK) {
        throw new IllegalStateException(path + " answers " + response.statusCode());
      }
      return response.body();
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
  }

  private void measure(String metrics) {
    double heap = 0;
    for (String line : metrics.lines().toList()) {
      if (line.startsWith("jvm_memory_used_bytes{area=\"heap\"")) {
        heap += value(line);
      }
    }
    largestHeap = Math.max(largestHeap, heap);
  }

  private static double value(String line) {
    return Double.parseDouble(line.substring(line.lastIndexOf(' ') + 1));
  }

  /** Median, 99th percentile and maximum of administrative calls. */
  Times administration() {
    return administration;
  }

  /** The most memory for objects in use when it was asked, in bytes. */
  double largestHeap() {
    return largestHeap;
  }

  @Override
  public void close() throws InterruptedException {
    ended = true;
    for (Thread thread : threads) {
      thread.join();
    }
  }
}
