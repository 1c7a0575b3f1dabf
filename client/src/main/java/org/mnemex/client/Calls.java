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
import tools.jackson.databind.json.JsonMapper;

/** Sends requests to a service and reads its answers and problems. */
final class Calls implements AutoCloseable {
  private static final Duration CONNECT_TIMEOUT = Duration.ofSeconds(5);
  private static final Duration TIMEOUT = Duration.ofSeconds(60);

  private final URI service;
  private final @Nullable String author;
  private final @Nullable String key;
  private final HttpClient http =
      HttpClient.newBuilder()
          .version(HttpClient.Version.HTTP_1_1)
          .connectTimeout(CONNECT_TIMEOUT)
          .build();
  private final ObjectMapper json =
      JsonMapper.builder()
          .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
          .disable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
          .build();

  /**
   * @param author who asks, recorded with changes by a service without keys; null for unknown
   * @param key sent with every call; null for none
   */
  Calls(URI service, @Nullable String author, @Nullable String key) {
    this.service = service;
    this.key = key;
    // Headers carry ASCII only. Replace other characters rather than fail the call.
    this.author = author == null ? null : author.replaceAll("[^\\x20-\\x7E]", "?");
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
    return send(
        request(path)
            .header("Content-Type", "application/json")
            .POST(HttpRequest.BodyPublishers.ofByteArray(json.writeValueAsBytes(body)))
            .build(),
        type);
  }

  /** A request that is answered within a minute. */
  HttpRequest.Builder request(String path) {
    HttpRequest.Builder request =
        endless(path)
            .timeout(TIMEOUT)
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
