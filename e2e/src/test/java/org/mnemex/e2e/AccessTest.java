package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.ActivityEntry;
import org.mnemex.client.EndpointTrial;
import org.mnemex.client.KeyRequest;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.NewKey;
import org.mnemex.client.ProblemException;
import org.mnemex.client.SearchQuery;
import tools.jackson.databind.json.JsonMapper;

/** Every route with every kind of key, and what becomes of keys. */
class AccessTest {
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final String SECRET = "a shared secret of more than 32 bytes";

  @TempDir private static Path folder;
  private static RunningService service;

  @BeforeAll
  static void start() throws Exception {
    GardenFiles.create(folder, 200);
    service = RunningService.secured(folder, "--mnemex.tokens.secret=" + SECRET);
    service.applyGarden();
  }

  @AfterAll
  static void stop() {
    service.close();
  }

  private static String key(KeyRequest request) {
    return service.client.access().create(request).secret();
  }

  private static int status(String method, String path, String key) {
    return service
        .send(method, path, "{}", key.isEmpty() ? new String[0] : bearer(key))
        .statusCode();
  }

  private static String[] bearer(String key) {
    return new String[] {"Authorization", "Bearer " + key};
  }

  private static List<ApiOperation> operations() throws Exception {
    return ApiOperation.all(
        JSON.readTree(
            service.send("GET", "/api/openapi.json", "", bearer(RunningService.FIRST_KEY)).body()));
  }

  @Test
  void everyRouteAllowsWhatItsRightsSay() throws Exception {
    Map<String, String> keys = new LinkedHashMap<>();
    keys.put("admin", RunningService.FIRST_KEY);
    keys.put("read", key(KeyRequest.of("reader", "read")));
    keys.put("write", key(KeyRequest.write("writer", List.of("none"))));
    keys.put("search", key(KeyRequest.search("frontend", List.of("plant-search"), null)));
    String token = SignedToken.of(SECRET, List.of("plant-search"), "family = 'Rosaceae'", 600);
    String elsewhere = key(KeyRequest.search("other", List.of("other-search"), null));
    NewKey revoked = service.client.access().create(KeyRequest.of("gone", "admin"));
    service.client.access().revoke(revoked.key().id());
    List<String> invalid =
        List.of(
            "",
            "nonsense",
            revoked.secret(),
            RunningService.FIRST_KEY.replace("ABCDEFG", "ABCDEFH"),
            "mnemex_unknownn_" + "x".repeat(43),
            SignedToken.of(SECRET, List.of("plant-search"), "TRUE", -1),
            SignedToken.of("another secret of more than 32 bytes", List.of("plant-search"), "", 9),
            SignedToken.unsigned(List.of("plant-search")));
    Map<String, String> wrong = new LinkedHashMap<>();
    for (ApiOperation one : operations()) {
      assertThat(one.hasRights())
          .as("whether org.mnemex.service.access.Routes lists %s", one.path())
          .isTrue();
      if (one.path().equals("/api/events")) {
        continue;
      }
      String method = one.verb();
      // Names of things that do not exist: what is allowed does no harm.
      String named = one.path().equals("/search") ? "/search?endpoint={endpoint}" : one.path();
      String path = named.replace("{endpoint}", "plant-search").replaceAll("\\{\\w+}", "none");
      List<String> rights = one.rights();
      boolean open = rights.isEmpty();
      for (String key : invalid) {
        // A key that is wrong is refused even where none is needed.
        int expected = open && key.isEmpty() ? 200 : 401;
        int got = status(method, path, key);
        if (expected == 401 ? got != 401 : got == 401 && !path.equals("/api/session")) {
          wrong.put(method + " " + path + " " + key, "expected " + expected + ", got " + got);
        }
      }
      keys.forEach(
          (right, key) -> {
            int got = status(method, path, key);
            boolean allowed = open || rights.contains(right);
            if (allowed == (got == 403) && !path.equals("/api/session") || got == 401 && !open) {
              wrong.put(method + " " + path + " " + right, allowed + ", got " + got);
            }
          });
      boolean searches = path.startsWith("/search");
      if (!open && (status(method, path, token) == 403) == searches) {
        wrong.put(method + " " + path + " token", "allowed: " + searches);
      }
      if (!open && status(method, path, elsewhere) != 403) {
        wrong.put(method + " " + path, "allowed with a key of another endpoint");
      }
    }
    assertThat(wrong).isEmpty();
  }

  /** However a path is written, it is the same route or none. */
  @Test
  void otherWaysToWriteAPathOpenNothing() {
    for (String method : List.of("GET", "HEAD")) {
      for (String path :
          List.of(
              "/api/overview",
              "/%61pi/overview",
              "//api/overview",
              "/api//overview",
              "/api;x=1/overview",
              "/;x=1/api/overview",
              "/api/overview;x=1",
              "/api/overview/",
              "/console/../api/overview",
              "/console/%2e%2e/api/overview",
              "/API/overview",
              "/search/plant-search;x=1",
              "/%73earch/plant-search",
              "/v3/api-docs",
              "/actuator",
              "/error")) {
        HttpResponse<String> answer = service.send(method, path, "");
        // What is below /console is the console's page, whatever it is called.
        if (!path.startsWith("/console")) {
          assertThat(answer.statusCode()).as(method + " " + path).isIn(400, 401, 404);
        }
        assertThat(answer.body()).doesNotContain("\"indexes\"", "\"results\"");
      }
    }
    for (String page : List.of("/", "/console/search", "/mark.svg")) {
      assertThat(service.send("GET", page, "").statusCode()).as(page).isEqualTo(200);
    }
  }

  /** Written by -Dmnemex.write. */
  @Test
  void theSecurityPageListsTheRights() throws Exception {
    StringBuilder table = new StringBuilder("| call | rights |\n| --- | --- |\n");
    Map<String, String> rows = new TreeMap<>();
    for (ApiOperation one : operations()) {
      rows.put(
          one.path() + " " + one.method(),
          "| `%s %s` | %s |%n"
              .formatted(
                  one.verb(),
                  one.path(),
                  one.rights().isEmpty()
                      ? "anybody, without a key"
                      : String.join(", ", one.rights())));
    }
    rows.values().forEach(table::append);
    Path page = RunningService.root().resolve("docs/security.md");
    String text = Files.readString(page);
    String begin = "<!-- rights -->\n";
    String end = "<!-- /rights -->";
    if (Boolean.getBoolean("mnemex.write")) {
      text =
          text.substring(0, text.indexOf(begin) + begin.length())
              + table
              + text.substring(text.indexOf(end));
      Files.writeString(page, text);
    }
    assertThat(text.substring(text.indexOf(begin) + begin.length(), text.indexOf(end)))
        .isEqualTo(table.toString());
  }

  /** A refusal without the id of its request. */
  private static String refusal(String endpoint, String key) {
    return service
        .send("GET", "/search/" + endpoint + "?q=x", "", bearer(key))
        .body()
        .replaceFirst("\"request\":\"[0-9a-f]{16}\"", "");
  }

  @Test
  void aRefusalSaysWhatIsMissingAndIsRecorded() throws IOException {
    HttpResponse<String> none = service.send("GET", "/api/overview", "");
    assertThat(none.headers().firstValue("WWW-Authenticate")).hasValue("Bearer realm=\"mnemex\"");
    assertThat(none.headers().firstValue("Content-Type").orElseThrow())
        .startsWith("application/problem+json");
    String reader = key(KeyRequest.of("curious", "read"));
    HttpResponse<String> refused =
        service.send("POST", "/api/indexes/plants/promote", "{}", bearer(reader));
    assertThat(refused.statusCode()).isEqualTo(403);
    assertThat(refused.body()).contains("needs the right admin", "/problems/not-allowed");
    ActivityEntry last = service.client.access().activity(null, "", true, 1).getFirst();
    assertThat(last.caller()).isEqualTo("curious");
    assertThat(last.act()).isEqualTo("POST /api/indexes/plants/promote");
    assertThat(last.target()).isEqualTo("plants");
    assertThat(last.status()).isEqualTo(403);
    try (BufferedReader lines =
        new BufferedReader(
            new InputStreamReader(
                service.client.access().exportActivity(last.keyId(), true),
                StandardCharsets.UTF_8))) {
      assertThat(JsonMapper.shared().readValue(lines.readLine(), ActivityEntry.class))
          .isEqualTo(last);
      assertThat(lines.readLine()).isNull();
    }
    // Whether an endpoint exists is not told to those who may not search it.
    String frontend = key(KeyRequest.search("frontend", List.of("shop"), null));
    assertThat(refusal("plant-search", frontend))
        .isEqualTo(refusal("no-such-search", frontend).replace("no-such-search", "plant-search"));
  }

  @Test
  void aKeysFilterIsCheckedWhenItIsCreated() {
    assertThatThrownBy(
            () -> key(KeyRequest.search("x", List.of("plant-search"), "famly = 'Rosaceae'")))
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("unknown field 'famly'; did you mean 'family'?");
    assertThat(key(KeyRequest.search("x", List.of("not-yet"), "famly = 'x'"))).isNotBlank();
  }

  @Test
  void definitionsCarryTheNameOfTheKey() throws Exception {
    String key = key(KeyRequest.of("head gardener", "admin"));
    try (MnemexClient head = new MnemexClient(service.url, "somebody@else", key)) {
      head.apply(Map.of("a.yaml", "analyser: labels\ntokeniser: words\nfilters: [lowercase]\n"));
      assertThat(head.versions("analyser", "labels").getFirst().author())
          .isEqualTo("head gardener");
    }
  }

  @Test
  void aRotatedKeyWorksForTheOverlapAndARevokedOneEndsItsStreams() throws Exception {
    NewKey old = service.client.access().create(KeyRequest.of("monitor", "read"));
    NewKey successor = service.client.access().rotate(old.key().id(), "1h");
    assertThat(status("GET", "/api/overview", old.secret())).isEqualTo(200);
    assertThat(status("GET", "/api/overview", successor.secret())).isEqualTo(200);
    assertThat(service.client.access().keys())
        .filteredOn(key -> key.id().equals(old.key().id()))
        .allSatisfy(key -> assertThat(Instant.parse(key.expires())).isAfter(Instant.now()));
    try (HttpClient http = HttpClient.newHttpClient()) {
      HttpResponse<InputStream> stream =
          http.send(
              HttpRequest.newBuilder(service.url.resolve("/api/events"))
                  .header("Authorization", "Bearer " + successor.secret())
                  .build(),
              HttpResponse.BodyHandlers.ofInputStream());
      assertThat(stream.body().read()).isPositive();
      service.client.access().revoke(successor.key().id());
      assertThat(stream.body().readAllBytes()).isNotNull();
    }
    assertThat(status("GET", "/api/overview", successor.secret())).isEqualTo(401);
    String soon =
        service
            .client
            .access()
            .create(
                new KeyRequest(
                    "brief",
                    "read",
                    null,
                    null,
                    null,
                    null,
                    null,
                    null,
                    Instant.now().plusMillis(700).toString()))
            .secret();
    assertThat(status("GET", "/api/overview", soon)).isEqualTo(200);
    RunningService.await(() -> status("GET", "/api/overview", soon) == 401);
  }

  @Test
  void aKeyMayBeForSomeNetworksAndPagesOnly() {
    String far =
        key(
            new KeyRequest(
                "far", "read", null, null, null, null, List.of("10.9.8.0/24"), null, null));
    assertThat(service.send("GET", "/api/overview", "", bearer(far)).body())
        .contains("not for network address 127.0.0.1");
    String shop =
        key(
            new KeyRequest(
                "shop",
                "search",
                null,
                List.of("plant-search"),
                null,
                List.of("https://shop.quillmere.example"),
                null,
                null,
                null));
    assertThat(
            service
                .send(
                    "GET",
                    "/search/plant-search?q=fern",
                    "",
                    "Authorization",
                    "Bearer " + shop,
                    "Origin",
                    "https://shop.quillmere.example")
                .statusCode())
        .isEqualTo(200);
    assertThat(status("GET", "/search/plant-search?q=fern", shop)).isEqualTo(403);
    assertThatThrownBy(() -> key(KeyRequest.of("bad", "owner")))
        .isInstanceOf(ProblemException.class)
        .hasMessageContaining("'owner' is not a right; there are admin, read, write, search");
    assertThatThrownBy(() -> key(KeyRequest.of("bad", "search")))
        .hasMessageContaining("names its endpoints");
  }

  @Test
  void aSessionIsForPeopleAndEndsWithItsKey() throws Exception {
    NewKey key = service.client.access().create(KeyRequest.of("gardener", "read"));
    HttpResponse<String> signedIn =
        service.send("POST", "/api/session", "{\"key\": \"" + key.secret() + "\"}");
    assertThat(signedIn.body()).contains("\"gardener\"", "\"read\"");
    String cookie =
        signedIn.headers().allValues("Set-Cookie").stream()
            .filter(c -> c.startsWith("mnemex_session="))
            .findFirst()
            .orElseThrow();
    assertThat(cookie).contains("HttpOnly", "SameSite=Strict");
    String session = cookie.substring(0, cookie.indexOf(';'));
    assertThat(service.send("GET", "/api/overview", "", "Cookie", session).statusCode())
        .isEqualTo(200);
    // A page of another site cannot make a browser change anything with the cookie alone.
    assertThat(service.send("POST", "/api/analysers/try", "{}", "Cookie", session).statusCode())
        .isEqualTo(403);
    service.client.access().revoke(key.key().id());
    assertThat(service.send("GET", "/api/overview", "", "Cookie", session).statusCode())
        .isEqualTo(401);
    String frontend = key(KeyRequest.search("frontend", List.of("plant-search"), null));
    assertThat(service.send("POST", "/api/session", "{\"key\": \"" + frontend + "\"}").statusCode())
        .isEqualTo(403);
  }

  @Test
  void callsOfAKeyAndOfAnEndpointAreLimited() throws Exception {
    String few = key(new KeyRequest("few", "read", null, null, null, null, null, 3, null));
    for (int i = 2; i >= 0; i--) {
      HttpResponse<String> taken = service.send("GET", "/api/overview", "", bearer(few));
      assertThat(taken.statusCode()).isEqualTo(200);
      assertThat(taken.headers().firstValue("RateLimit-Policy")).hasValue("\"key\";q=3;w=60");
      assertThat(taken.headers().firstValue("RateLimit").orElseThrow())
          .startsWith("\"key\";r=" + i);
    }
    HttpResponse<String> refused = service.send("GET", "/api/overview", "", bearer(few));
    assertThat(refused.statusCode()).isEqualTo(429);
    assertThat(refused.body()).contains("too-many-calls", "3 times in a minute");
    assertThat(Integer.parseInt(refused.headers().firstValue("Retry-After").orElseThrow()))
        .isBetween(1, 20);
    service.client.apply(
        Map.of("slow.yaml", "endpoint: slow-search\nindex: plants\nshow: [name]\nper_minute: 2\n"));
    String[] all = bearer(RunningService.FIRST_KEY);
    assertThat(service.send("GET", "/search/slow-search", "", all).statusCode()).isEqualTo(200);
    assertThat(service.send("GET", "/search/slow-search/suggest", "", all).statusCode())
        .isEqualTo(200);
    for (String path :
        List.of("/search/slow-search", "/search/%73low-search", "/search/slow-search;x=1")) {
      assertThat(service.send("GET", path, "", all).statusCode()).as(path).isEqualTo(429);
    }
  }

  @Test
  void pagesOfOtherOriginsMayCallEndpointsThatNameThem() {
    String page = "https://plants.quillmere.example";
    service.client.apply(
        Map.of(
            "web.yaml",
            "endpoint: web-search\nindex: plants\nshow: [name]\norigins: [\"" + page + "\"]\n"));
    HttpResponse<String> asked =
        service.send(
            "OPTIONS",
            "/search/web-search",
            "",
            "Origin",
            page,
            "Access-Control-Request-Method",
            "POST",
            "Access-Control-Request-Headers",
            "authorization, content-type");
    assertThat(asked.statusCode()).isEqualTo(200);
    assertThat(asked.headers().firstValue("Access-Control-Allow-Origin")).hasValue(page);
    assertThat(asked.headers().firstValue("Access-Control-Max-Age")).hasValue("3600");
    HttpResponse<String> answer =
        service.send(
            "GET",
            "/search/web-search",
            "",
            "Origin",
            page,
            "Authorization",
            "Bearer " + RunningService.FIRST_KEY);
    assertThat(answer.statusCode()).isEqualTo(200);
    assertThat(answer.headers().firstValue("Access-Control-Allow-Origin")).hasValue(page);
    assertThat(String.join(",", answer.headers().allValues("Vary"))).containsIgnoringCase("origin");
    assertThat(
            service
                .send("GET", "/search?endpoint=web-search", "", "Origin", page)
                .headers()
                .firstValue("Access-Control-Allow-Origin"))
        .hasValue(page);
    for (String path :
        List.of(
            "/search/plant-search",
            "/search?endpoint=web-search&endpoint=plant-search",
            "/api/overview",
            "/api/session")) {
      assertThat(
              service
                  .send("GET", path, "", "Origin", page)
                  .headers()
                  .firstValue("Access-Control-Allow-Origin"))
          .isEmpty();
    }
    assertThat(
            service
                .send("GET", "/search/web-search", "", "Origin", "https://other.example")
                .statusCode())
        .isEqualTo(403);
  }

  @Test
  void keysThatOnlySearchDoNotReachWhatIsTried() {
    EndpointTrial trial =
        service
            .client
            .quality()
            .tryDefinitions(
                "plant-search",
                Map.of("open.yaml", "endpoint: plant-search\nindex: plants\nshow: [name]\n"));
    String name = trial.endpoint();
    List<String> paths =
        List.of(
            "/search/" + name,
            "/search?endpoint=" + name,
            "/search/" + name.replace("~", "%7E") + "/page",
            "/search/" + name + "/suggest?q=ro");
    String everywhere = key(KeyRequest.search("all endpoints", List.of("*"), null));
    String one = key(KeyRequest.search("one endpoint", List.of("plant-search"), null));
    String reader = key(KeyRequest.of("looks", "read"));
    for (String path : paths) {
      assertThat(status("GET", path, everywhere)).as(path).isEqualTo(403);
      assertThat(status("GET", path, one)).as(path).isEqualTo(403);
      assertThat(status("GET", path, "")).as(path).isEqualTo(401);
      assertThat(status("GET", path, reader)).as(path).isEqualTo(200);
    }
    assertThat(status("POST", "/api/endpoints/plant-search/trials", reader)).isEqualTo(403);
  }

  @Test
  void noSecretIsKeptAnywhere() throws Exception {
    NewKey key = service.client.access().create(KeyRequest.of("kept", "read"));
    // What stands behind the name and the identifier may have such lines itself.
    String secret = key.secret().split("_", 3)[2];
    assertThat(secret).hasSizeGreaterThan(20);
    service.send("GET", "/api/overview", "", bearer(key.secret()));
    assertThat(service.log()).doesNotContain(secret, RunningService.FIRST_KEY, SECRET);
    try (var files = Files.walk(folder)) {
      for (Path file : files.filter(Files::isRegularFile).toList()) {
        assertThat(new String(Files.readAllBytes(file), StandardCharsets.ISO_8859_1))
            .as(file.toString())
            .doesNotContain(secret)
            .doesNotContain(RunningService.FIRST_KEY.substring(16));
      }
    }
    assertThat(service.client.search("plant-search", SearchQuery.words("fern")).total().count())
        .isPositive();
  }
}
