package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.Socket;
import java.net.SocketException;
import java.net.SocketTimeoutException;
import java.net.URI;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.api.io.TempDir;

/**
 * Whatever is asked over HTTP, the answer is a result or a problem document that says what is
 * wrong; nothing is answered with an error of the service.
 */
class HttpEdgesTest {
  private static final int REQUESTS = Integer.getInteger("mnemex.fuzz", 1_500);

  private static final String[] TEXTS = {
    "",
    "\"\"",
    "\"",
    "a\0b",
    "%",
    "日本",
    "'",
    "NOT",
    "OR",
    "-",
    "-fern",
    "*",
    "f*rn",
    "fern",
    "fern NEAR/3 moss",
    "NEAR/3",
    "name:fern",
    "1E1000000000",
    "9".repeat(400),
    "1.2.3",
    "٣",
    "-0",
    "NaN",
    "true",
    "../..",
    "\u202e",
    "(((",
    "30..100",
    "..",
    "1e5..",
    "2026-05",
    "bed",
    "tallest",
    "nearest",
    "QB-00017",
    "not known",
    "16/32714/21837",
    "16/99999/0",
    "pest",
    "51.2,-0.3",
    "91,0",
    "a ".repeat(2_000),
    "MATCHES(name, '\"\"')",
    "DISTANCE(bed_place,1.2.3,0) < 5",
    "DISTANCE(bed_place, ٣, 0) < 5",
    "INSIDE(bed_place, BOX(1,2,3))",
    "planted_on > DATE '+999999999-01-01'",
    "height_cm > 1E9",
    "\"status\" = 'x'",
    "EXISTS (sightings WHERE kind",
    "status = 'a\0b'"
  };
  private static final String[] NAMES = {
    "q",
    "sort",
    "page",
    "size",
    "after",
    "near",
    "where",
    "true_for",
    "typing",
    "family",
    "status",
    "height",
    "begins",
    "group",
    "similar_to",
    "similar_text",
    "collector",
    "map",
    "seen",
    "nothing",
    ""
  };
  private static final String[] ADDRESSES = {
    "/search/plant-search",
    "/search/plant-search/suggest",
    "/search/plant-search/facets/family",
    "/search/plant-search/facets/x",
    "/search/x",
    "/search/",
    "/search/%2F",
    "/api/indexes/plants",
    "/api/indexes/plants/records/QB-00001",
    "/api/indexes/plants/records/a%2Fb",
    "/api/indexes/plants/records/%00",
    "/api/indexes/plants/records/..",
    "/api/indexes/%FF",
    "/api/indexes/plants/changes",
    "/api/definitions/index/plants/differences",
    "//",
    "/error",
    "/api",
    "/nothing",
    "/%",
    "/..%2f..",
    "/a b",
    "/api/sources/garden/tables/%27/rows"
  };
  private static final String[] POSTED = {
    "/search/plant-search",
    "/search/plant-search/explain?key=QB-00001",
    "/api/check",
    "/api/plan",
    "/api/preview",
    "/api/analysers/try",
    "/api/indexes/plants/fields/name/try",
    "/api/endpoints/plant-search/compare"
  };
  private static final String[] BODIES = {
    "",
    "{",
    "[",
    "null",
    "[]",
    "{}",
    "{\"q\": 1}",
    "{\"facets\": {\"family\": null}}",
    "{\"facets\": {\"family\": [null]}}",
    "{\"files\": [null]}",
    "{\"files\": [{\"text\": \"x\"}]}",
    "{\"files\": [{\"name\": \"a\\u0000\", \"text\": \"source: x\"}]}",
    "{\"analysers\": [null]}",
    "{\"files\": [{\"name\": \"f\", \"text\": \"a: &b *b\"}]}",
    "[".repeat(3_000),
    "{\"zzz\": 1}",
    "{\"queries\": [null]}",
    "{\"page\": 1e300}",
    "{\"where\": \"((((\"}",
    "{\"after\": \"AAAA\"}",
    "{\"text\": \"fern\", \"analysers\": [\"english\"]}",
    "{\"size\": -1}"
  };

  @Test
  void everyAnswerIsAResultOrSaysWhatIsWrong(@TempDir Path folder) throws Exception {
    GardenFiles.create(folder, 200);
    try (RunningService service = RunningService.start(folder)) {
      service.applyGarden();
      long seed = System.nanoTime();
      Random random = new Random(seed);
      for (int i = 0; i < REQUESTS; i++) {
        String request = request(random);
        Answer answer = send(service, request);
        String said = "seed %d, request %d: %s".formatted(seed, i, shown(request));
        if (answer.status >= 400) {
          assertThat(answer.head).as(said).contains("application/problem+json");
          assertThat(answer.body).as(said).contains("\"status\":" + answer.status, "\"detail\":");
        }
        assertThat(answer.status).as(said).isNotEqualTo(500).isBetween(200, 503);
      }
      assertThat(service.log()).doesNotContain("request failed", "Exception:");
    }
  }

  @Test
  void bodiesAreLimitedWhateverTheySayOfTheirLength(@TempDir Path folder) throws Exception {
    try (RunningService service =
        RunningService.start(folder, Map.of("SERVER_TOMCAT_CONNECTIONTIMEOUT", "2s"))) {
      Answer told = send(service, "POST /api/check HTTP/1.1\r\nContent-Length: 5000000\r\n");
      assertThat(told.status).isEqualTo(413);
      assertThat(told.body).contains("body-too-large");
      StringBuilder chunks = new StringBuilder("POST /api/check HTTP/1.1\r\n");
      chunks.append("Content-Type: application/json\r\nTransfer-Encoding: chunked\r\n");
      String body = "100000\r\n" + " ".repeat(1 << 20) + "\r\n";
      Answer hidden = send(service, chunks.toString(), body.repeat(5) + "0\r\n\r\n");
      assertThat(hidden.status).isEqualTo(413);
      // Records are read line by line, so there may be any number of them.
      assertThat(
              send(
                      service,
                      chunks.toString().replace("/api/check", "/api/indexes/x/records"),
                      body.repeat(5) + "0\r\n\r\n")
                  .status)
          .isEqualTo(404);
      // A line break in a parameter must not make a line of the log.
      send(service, "GET /search/plant-search?q=%0AERROR%20made%20up HTTP/1.1\r\n");
      assertThat(service.log().lines()).noneMatch(line -> line.startsWith("ERROR made up"));
    }
  }

  /** A byte now and then keeps no connection, whether the call would be answered or is refused. */
  @Test
  @Timeout(120)
  void slowSendersAreCutOff(@TempDir Path folder) throws Exception {
    try (RunningService service = RunningService.start(folder, Map.of("MNEMEX_BODYLIMIT", "1s"))) {
      assertThat(trickle(service, "POST /api/check HTTP/1.1"))
          .contains("HTTP/1.1 408", "body-too-slow");
      assertThat(trickle(service, "POST /nothing HTTP/1.1")).contains("HTTP/1.1 404");
      assertThat(trickle(service, "POST /api/indexes/x/records HTTP/1.1"))
          .contains("HTTP/1.1 404", "unknown-index");
    }
  }

  /** Sends a space now and then until the service closes the connection; what it answered. */
  private static String trickle(RunningService service, String line) throws IOException {
    URI uri = service.address();
    StringBuilder answer = new StringBuilder();
    try (Socket socket = new Socket(uri.getHost(), uri.getPort())) {
      socket.setSoTimeout(100);
      String head =
          line
              + "\r\nHost: "
              + uri.getAuthority()
              + "\r\nContent-Type: application/json\r\nContent-Length: 4000000\r\n\r\n";
      socket.getOutputStream().write(head.getBytes(StandardCharsets.ISO_8859_1));
      while (true) {
        try {
          int read = socket.getInputStream().read();
          if (read < 0) {
            return answer.toString();
          }
          answer.append((char) read);
        } catch (SocketTimeoutException e) {
          socket.getOutputStream().write(' ');
        }
      }
    } catch (SocketException e) {
      return answer.toString();
    }
  }

  private static String any(Random random, String[] of) {
    return of[random.nextInt(of.length)];
  }

  private static String request(Random random) {
    if (random.nextInt(3) == 0) {
      String type = random.nextInt(8) == 0 ? "text/plain" : "application/json";
      byte[] body = any(random, BODIES).getBytes(StandardCharsets.UTF_8);
      return "POST %s HTTP/1.1\r\nContent-Type: %s\r\nContent-Length: %d\r\n\r\n%s"
          .formatted(
              any(random, POSTED), type, body.length, new String(body, StandardCharsets.UTF_8));
    }
    List<String> parameters = new ArrayList<>();
    for (int n = random.nextInt(4); n > 0; n--) {
      String value =
          random.nextInt(12) == 0
              ? any(random, new String[] {"%FF", "%", "%zz", "%0A", "%C0%80"})
              : URLEncoder.encode(any(random, TEXTS), StandardCharsets.UTF_8);
      parameters.add(any(random, NAMES) + (random.nextInt(9) == 0 ? "" : "=") + value);
    }
    String method =
        random.nextInt(12) == 0 ? any(random, new String[] {"PUT", "PATCH", "TRACE"}) : "GET";
    String accept = random.nextInt(8) == 0 ? "Accept: image/png\r\n" : "";
    return "%s %s%s HTTP/1.1\r\n%s"
        .formatted(
            method,
            any(random, ADDRESSES),
            parameters.isEmpty() ? "" : "?" + String.join("&", parameters),
            accept);
  }

  private static String shown(String request) {
    return request.substring(0, Math.min(300, request.length())).replace("\r\n", " | ");
  }

  private record Answer(int status, String head, String body) {}

  private static Answer send(RunningService service, String request) throws IOException {
    int end = request.indexOf("\r\n\r\n");
    return end < 0
        ? send(service, request, "")
        : send(service, request.substring(0, end + 2), request.substring(end + 4));
  }

  /** As it is, byte by byte: a client library would refuse to send half of this. */
  private static Answer send(RunningService service, String head, String body) throws IOException {
    URI address = service.address();
    try (Socket socket = new Socket(address.getHost(), address.getPort())) {
      String whole =
          head + "Host: 127.0.0.1:" + address.getPort() + "\r\nConnection: close\r\n\r\n" + body;
      try {
        socket.getOutputStream().write(whole.getBytes(StandardCharsets.UTF_8));
        socket.getOutputStream().flush();
      } catch (IOException e) {
        // It was refused before it was all sent; what was answered can be read all the same.
      }
      StringBuilder answer = new StringBuilder();
      BufferedReader reader =
          new BufferedReader(
              new InputStreamReader(socket.getInputStream(), StandardCharsets.UTF_8));
      char[] part = new char[8192];
      try {
        for (int read = reader.read(part); read >= 0; read = reader.read(part)) {
          answer.append(part, 0, read);
        }
      } catch (IOException e) {
        // Reset after the answer.
      }
      int split = answer.indexOf("\r\n\r\n");
      return new Answer(
          Integer.parseInt(answer.substring(9, 12)),
          answer.substring(0, split),
          answer.substring(split + 4));
    }
  }
}
