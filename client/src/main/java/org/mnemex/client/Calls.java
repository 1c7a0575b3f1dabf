package org.mnemex.client;

import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.PropertyNamingStrategies;
import tools.jackson.databind.json.JsonMapper;

/** Sends requests to a service and reads its answers and problems. */
final class Calls implements AutoCloseable {
  private final URI service;
  private final @Nullable String author;
  private final @Nullable String key;
  private final Duration timeout;
  private final Retries retries;
  private final HttpClient http;
  private final ObjectMapper json =
      JsonMapper.builder()
          .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
          .disable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
          .build();

  /** Fields of records as components of records in Java: {@code latin_name} as latinName. */
  private final ObjectMapper records =
      JsonMapper.builder()
          .propertyNamingStrategy(PropertyNamingStrategies.SNAKE_CASE)
          .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
          .enable(DeserializationFeature.ACCEPT_SINGLE_VALUE_AS_ARRAY)
          .build();

  Calls(URI service, ClientOptions options) {
    this.service = service;
    this.key = options.key();
    // Headers carry ASCII only. Replace other characters rather than fail the call.
    this.author =
        options.author() == null ? null : options.author().replaceAll("[^\\x20-\\x7E]", "?");
    this.timeout = options.timeout();
    this.retries = new Retries(options.retries(), options.longestWait());
    HttpClient.Builder building =
        HttpClient.newBuilder()
            .version(HttpClient.Version.HTTP_1_1)
            .connectTimeout(options.connectTimeout());
    if (options.tls() != null) {
      building.sslContext(options.tls());
    }
    this.http = building.build();
  }

  /**
   * A record as a type of the caller.
   *
   * @throws IllegalArgumentException if a field does not fit the type
   */
  <T> T record(Map<String, Object> fields, Class<T> type) {
    try {
      return records.convertValue(fields, type);
    } catch (JacksonException e) {
      throw new IllegalArgumentException(
          "the fields %s are not a %s: %s"
              .formatted(fields.keySet(), type.getSimpleName(), e.getOriginalMessage()),
          e);
    }
  }

  /** A record of the caller as JSON, with components as fields: latinName as {@code latin_name}. */
  byte[] recordAsJson(Object record) {
    return records.writeValueAsBytes(record);
  }

  URI service() {
    return service;
  }

  ObjectMapper json() {
    return json;
  }

  <T> T get(String path, TypeReference<T> type) {
    return send(request(path).GET().build(), type);
  }

  <T> T post(String path, Object body, TypeReference<T> type) {
    return send(posting(path, body), type);
  }

  /** Posts what has no answer. */
  void tell(String path, Object body) {
    send(posting(path, body));
  }

  private HttpRequest posting(String path, Object body) {
    return request(path)
        .header("Content-Type", "application/json")
        .POST(HttpRequest.BodyPublishers.ofByteArray(json.writeValueAsBytes(body)))
        .build();
  }

  /** A request that is answered within the time limit. */
  HttpRequest.Builder request(String path) {
    HttpRequest.Builder request =
        endless(path)
            .timeout(timeout)
            .header("Accept", "application/json, application/problem+json");
    if (author != null) {
      request.header("From", author);
    }
    return request;
  }

  <T> T send(HttpRequest request, TypeReference<T> type) {
    byte[] body = send(request);
    try {
      return json.readValue(body, type);
    } catch (JacksonException e) {
      throw new UnreachableException(service, e);
    }
  }

  /** The body of the answer. */
  byte[] send(HttpRequest request) {
    HttpResponse<byte[]> response;
    try {
      response = http.send(request, HttpResponse.BodyHandlers.ofByteArray());
      int tried = 0;
      for (long pause = retries.pauseMillis(request, response, tried);
          pause >= 0;
          pause = retries.pauseMillis(request, response, ++tried)) {
        Thread.sleep(pause);
        response = http.send(request, HttpResponse.BodyHandlers.ofByteArray());
      }
    } catch (IOException e) {
      throw new UnreachableException(service, e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new UnreachableException(service, e);
    }
    if (response.statusCode() / 100 != 2) {
      throw new ProblemException(problem(response.statusCode(), response.body()));
    }
    return response.body();
  }

  private Problem problem(int status, byte[] body) {
    try {
      return json.readValue(body, Problem.class);
    } catch (JacksonException e) {
      return new Problem(null, null, status, "HTTP status " + status, null, null);
    }
  }

  /** A request without a time limit. */
  HttpRequest.Builder endless(String path) {
    HttpRequest.Builder request = HttpRequest.newBuilder(service.resolve(path));
    return key == null ? request : request.header("Authorization", "Bearer " + key);
  }

  /** The body of an answer as a stream, to be closed. */
  InputStream stream(HttpRequest request) {
    HttpResponse<InputStream> response;
    try {
      response = http.send(request, HttpResponse.BodyHandlers.ofInputStream());
      if (response.statusCode() / 100 != 2) {
        try (InputStream body = response.body()) {
          throw new ProblemException(problem(response.statusCode(), body.readAllBytes()));
        }
      }
    } catch (IOException e) {
      throw new UnreachableException(service, e);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new UnreachableException(service, e);
    }
    return response.body();
  }

  /** Slashes stand between parts, as in composite keys, and belong to the path. */
  static String encodePath(String path) {
    return String.join("/", Arrays.stream(path.split("/", -1)).map(Calls::encode).toList());
  }

  static String encode(String part) {
    return URLEncoder.encode(part, StandardCharsets.UTF_8).replace("+", "%20");
  }

  /** A parameter with several values. */
  static String repeated(String name, List<String> values) {
    return String.join("&", values.stream().map(value -> name + "=" + encode(value)).toList());
  }

  /** Files as the service takes them. */
  static List<Map<String, String>> files(Map<String, String> textByName) {
    return textByName.entrySet().stream()
        .map(file -> Map.of("name", file.getKey(), "text", file.getValue()))
        .toList();
  }

  @Override
  public void close() {
    http.close();
  }
}
