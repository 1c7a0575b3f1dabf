package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.SearchAnswer;
import org.mnemex.client.SearchQuery;

/** Records that are pushed: the garden's tool shed has no database. */
class PushTest {
  private static final String DEFINITIONS =
      """
      source: shed
      kind: push
      ---
      index: tools
      source: shed
      record: {key: [id]}
      never: [serial, maker.phone]
      fields:
        name: {from: name, type: text, analyser: english, weight: 3}
        maker: {from: maker.name, type: exact, uses: [facet, filter, show]}
        weight_kg: {from: weight_kg, type: decimal, scale: 2, uses: [filter, sort, show]}
        tags: {from: tags, type: exact, uses: [facet, filter, show]}
        state: {from: state, type: exact, uses: [filter, show]}
      ---
      endpoint: tool-search
      index: tools
      show: [name, maker, weight_kg, tags, state]
      """;

  private final HttpClient http = HttpClient.newHttpClient();

  @Test
  void whatIsAnsweredIsKept(@TempDir Path folder) throws Exception {
    try (RunningService service = RunningService.start(folder)) {
      service.client.apply(Map.of("shed.yaml", DEFINITIONS));
      service.awaitLive("tools");
      single(service);
      filtered(service);
      lines(service, folder);
      refused(service);
      answersThatNoConnectionHolds(service);
      // A power cut right after an answer.
      String rake = "{\"name\": \"Last rake\", \"serial\": \"SN-9\"}";
      String position = position(send(service, "PUT", "/api/indexes/tools/records/t9", rake));
      service.kill();
      service.restart();
      assertThat(search(service, "last rake", position).total().count()).isEqualTo(1);
      // A changed index is filled from what was pushed and stored.
      String changed = DEFINITIONS.replace("analyser: english", "analyser: words");
      service.client.apply(Map.of("shed.yaml", changed));
      RunningService.await(
          () -> {
            var live = service.client.indexes().getFirst().live();
            return live != null && live.number() == 2;
          });
      assertThat(search(service, "last rake", position).total().count()).isEqualTo(1);
      assertThat(send(service, "GET", "/api/indexes/tools/records", "").body())
          .contains("Last rake")
          .doesNotContain("SN-", "555-");
    }
  }

  private void single(RunningService service) throws Exception {
    String path = "/api/indexes/tools/records/t1";
    String sent =
        """
        {"id": "t1", "name": "Digging spade", "serial": "SN-1", "weight_kg": 2.25,
         "maker": {"name": "Alder & Sons", "phone": "555-0001"}, "tags": ["dig", "heavy"]}""";
    String position = position(send(service, "PUT", path, sent));
    assertThat(search(service, "spades", position).results().getFirst().fields())
        .containsEntry("maker", "Alder & Sons")
        .containsEntry("tags", List.of("dig", "heavy"));
    // What is not sent stays, null removes.
    String patch =
        "{\"state\": \"blunt\", \"weight_kg\": null, \"maker\": {\"phone\": \"555-0002\"}}";
    position = position(send(service, "PATCH", path, patch));
    assertThat(search(service, "spades", position).results().getFirst().fields())
        .containsEntry("state", "blunt")
        .containsEntry("maker", "Alder & Sons")
        .doesNotContainKey("weight_kg");
    position = position(send(service, "DELETE", path, ""));
    assertThat(search(service, "spades", position).total().count()).isZero();
  }

  private void filtered(RunningService service) throws Exception {
    String position = "";
    for (int i = 0; i < 5; i++) {
      String fork = "{\"name\": \"Fork\", \"state\": \"%s\"}".formatted(i < 3 ? "dirty" : "clean");
      position = position(send(service, "PUT", "/api/indexes/tools/records/f" + i, fork));
    }
    assertThat(search(service, "fork", position).total().count()).isEqualTo(5);
    String path = "/api/indexes/tools/records?where=state%20%3D%20%27dirty%27";
    String clean = "{\"state\": \"clean\"}";
    assertThat(send(service, "PATCH", path + "&count_only=true", clean).body())
        .contains("\"records\":3", "\"changed\":false");
    assertThat(send(service, "PATCH", path, clean).body()).contains("\"changed\":true");
    RunningService.await(
        () ->
            service
                    .client
                    .search("tool-search", SearchQuery.words("fork").where("state = 'clean'"))
                    .total()
                    .count()
                == 5);
  }

  private static void lines(RunningService service, Path folder) throws Exception {
    List<String> many = new ArrayList<>();
    for (int i = 0; i < 1200; i++) {
      many.add("{\"id\": \"n%d\", \"name\": \"Trowel %d\"}".formatted(i % 1000, i));
    }
    many.add(3, "{\"name\": \"no key\"}");
    many.add(5, "no json");
    Files.write(folder.resolve("tools.ndjson"), many);
    CommandLineTest.Outcome outcome = push(service, folder, "tools.ndjson");
    assertThat(outcome.exitCode()).isEqualTo(1);
    assertThat(outcome.out()).contains("1,200 records taken, 2 refused.");
    assertThat(outcome.err())
        .contains("tools.ndjson:4: its key 'id' is missing")
        .contains("tools.ndjson:6: this is not a JSON object");
    Files.writeString(
        folder.resolve("more.csv"), "id,name,weight_kg\r\nc1,\"Hoe, small\",0.75\r\nc2,Hoe,\r\n");
    outcome = push(service, folder, "more.csv");
    assertThat(outcome.out()).as(outcome.err()).contains("2 records taken, 0 refused.");
    RunningService.await(
        () ->
            service.client.search("tool-search", SearchQuery.words("hoe")).total().count() == 2
                && service.client.search("tool-search", SearchQuery.words("trowel")).total().count()
                    == 1000);
    // The later of two lines with one key counts.
    assertThat(service.client.search("tool-search", SearchQuery.words("1150")).results())
        .extracting(SearchAnswer.Result::key)
        .containsExactly("n150");
  }

  private static CommandLineTest.Outcome push(RunningService service, Path folder, String file)
      throws Exception {
    return CommandLineTest.run(
        service.url.toString(), folder, List.of("import", file, "-i", "tools"));
  }

  private void refused(RunningService service) throws Exception {
    String path = "/api/indexes/tools/records/t2";
    HttpResponse<String> other = send(service, "PUT", path, "{\"id\": \"t3\"}");
    assertThat(other.statusCode()).isEqualTo(400);
    assertThat(other.body()).contains("its key 'id' is 't3', but it was sent to 't2'");
    assertThat(send(service, "PUT", path, "[1]").body()).contains("this is not a JSON object");
    String records = "/api/indexes/tools/records";
    assertThat(service.send("POST", records, "x", "Content-Type", "text/plain").body())
        .contains("records must be sent as application/x-ndjson or text/csv or application/json");
    assertThat(send(service, "POST", records, "x").body()).contains("this is not JSON");
  }

  private static SearchAnswer search(RunningService service, String words, String position) {
    return service.client.search("tool-search", SearchQuery.words(words).trueFor(position));
  }

  private static String position(HttpResponse<String> answer) {
    Matcher position = Pattern.compile("\"position\":\"([^\"]+)\"").matcher(answer.body());
    assertThat(position.find()).as(answer.body()).isTrue();
    return position.group(1);
  }

  private HttpResponse<String> send(RunningService service, String method, String path, String body)
      throws Exception {
    return http.send(
        HttpRequest.newBuilder(URI.create(service.url + path))
            .header("Content-Type", "application/json")
            .method(method, HttpRequest.BodyPublishers.ofString(body))
            .build(),
        HttpResponse.BodyHandlers.ofString());
  }

  /** Most callers read nothing before they have sent everything. */
  private void answersThatNoConnectionHolds(RunningService service) {
    String body =
        IntStream.range(0, 30_000)
            .mapToObj(i -> "{\"id\": \"%s%d\"}".formatted("long".repeat(100), i))
            .collect(Collectors.joining("\n"));
    HttpResponse<String> answer =
        service.send(
            "POST",
            "/api/indexes/tools/records?act=delete",
            body,
            "Content-Type",
            "application/x-ndjson");
    assertThat(answer.statusCode()).isEqualTo(200);
    assertThat(answer.body().lines()).hasSize(30_001);
    assertThat(answer.body()).contains("\"taken\":30000,\"refused\":0");
  }
}
