package org.mnemex.spring;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.MnemexClient;
import org.mnemex.client.UnreachableException;
import org.springframework.boot.autoconfigure.AutoConfigurations;
import org.springframework.boot.autoconfigure.ssl.SslAutoConfiguration;
import org.springframework.boot.health.contributor.HealthIndicator;
import org.springframework.boot.health.contributor.Status;
import org.springframework.boot.ssl.NoSuchSslBundleException;
import org.springframework.boot.test.context.runner.ApplicationContextRunner;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.jdbc.datasource.DriverManagerDataSource;
import org.springframework.jdbc.support.JdbcTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

class StarterTest {
  private final List<String> received = Collections.synchronizedList(new ArrayList<>());
  private final List<String> failed = new ArrayList<>();
  private HttpServer server;
  private int port;
  @TempDir private Path folder;
  private DriverManagerDataSource database;
  private JdbcClient jdbc;

  @BeforeEach
  void start() throws IOException {
    server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
    port = server.getAddress().getPort();
    server.createContext(
        "/",
        exchange -> {
          String body =
              new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
          received.add(
              exchange.getRequestMethod()
                  + " "
                  + exchange.getRequestURI()
                  + " "
                  + exchange.getRequestHeaders().getFirst("Authorization")
                  + " "
                  + body);
          boolean refuse = body.contains("unreadable");
          byte[] answer =
              (refuse
                      ? "{\"detail\": \"no\"}"
                      : "{\"key\": \"7\", \"position\": \"p1\", \"status\": \"UP\"}")
                  .getBytes(StandardCharsets.UTF_8);
          exchange.sendResponseHeaders(refuse ? 400 : 200, answer.length);
          exchange.getResponseBody().write(answer);
          exchange.close();
        });
    server.start();
    database = new DriverManagerDataSource("jdbc:sqlite:" + folder.resolve("shop.db"));
    jdbc = JdbcClient.create(database);
    jdbc.sql("CREATE TABLE plant (id INTEGER PRIMARY KEY, latin_name TEXT)").update();
  }

  @AfterEach
  void stop() {
    server.stop(0);
  }

  private ApplicationContextRunner application() {
    return new ApplicationContextRunner()
        .withConfiguration(AutoConfigurations.of(MnemexAutoConfiguration.class))
        .withPropertyValues(
            "mnemex.client.url=http://127.0.0.1:" + port,
            "mnemex.client.key=secret-key",
            "mnemex.client.timeout=5s");
  }

  @Test
  void aBundleSaysWhomToTrust() {
    application()
        .withConfiguration(AutoConfigurations.of(SslAutoConfiguration.class))
        .withPropertyValues("mnemex.client.ssl-bundle=inside")
        .run(
            context ->
                assertThat(context)
                    .getFailure()
                    .rootCause()
                    .isInstanceOf(NoSuchSslBundleException.class)
                    .hasMessageContaining("inside"));
  }

  @Test
  void theClientAndItsHealthComeFromProperties() {
    application()
        .run(
            context -> {
              assertThat(context.getBean(HealthIndicator.class).health().getStatus())
                  .isEqualTo(Status.UP);
              assertThat(received.getFirst()).contains("Bearer secret-key");
              assertThat(context.getBean(MnemexClientProperties.class).toString())
                  .doesNotContain("secret-key");
              server.stop(0);
              assertThat(context.getBean(HealthIndicator.class).health().getStatus())
                  .isEqualTo(Status.DOWN);
            });
    MnemexClient own = new MnemexClient(URI.create("http://127.0.0.1:1"));
    application()
        .withBean(MnemexClient.class, () -> own)
        .run(context -> assertThat(context.getBean(MnemexClient.class)).isSameAs(own));
  }

  private record Plant(long id, String latinName) {}

  @Test
  void rowsComeInTheOrderOfTheKeys() {
    List<String> keys =
        new ArrayList<>(IntStream.rangeClosed(1, 1200).mapToObj(String::valueOf).toList());
    for (String key : keys) {
      if (!key.equals("40")) {
        jdbc.sql("INSERT INTO plant VALUES (?, ?)").params(key, "Plant " + key).update();
      }
    }
    Collections.shuffle(keys, new Random(1));
    RowsByKey<Long, Plant> rows =
        RowsByKey.query(
            jdbc, "SELECT * FROM plant WHERE id IN (:keys)", Plant.class, Long::valueOf, Plant::id);
    assertThat(rows.of(keys))
        .extracting(Plant::id)
        .containsExactlyElementsOf(
            keys.stream().filter(key -> !key.equals("40")).map(Long::valueOf).toList());
    assertThat(rows.of(List.of())).isEmpty();
    assertThat(rows.of(List.of("3", "40", "3"))).extracting(Plant::id).containsExactly(3L, 3L);
    RowsByKey<String, String> own =
        new RowsByKey<>(key -> key, wanted -> List.of("b", "a"), row -> row);
    assertThat(own.of(List.of("a", "x", "b"))).containsExactly("a", "b");
  }

  @Test
  void recordsArePushedWhenTheTransactionHasCommitted() {
    MnemexClient client = new MnemexClient(URI.create("http://127.0.0.1:" + port));
    PushAfterCommit push =
        new PushAfterCommit(client, (index, key, why) -> failed.add(index + " " + key));
    TransactionTemplate transaction = new TransactionTemplate(new JdbcTransactionManager(database));
    transaction.executeWithoutResult(
        status -> {
          push.replace("plants", "7", new Plant(7, "Rosa"));
          push.replace("plants", "8", Map.of("note", "unreadable"));
          push.replace("plants", "a b/9", new Plant(9, "Acer"));
          push.replace("plants", "7", new Plant(7, "Rosa canina"));
          push.delete("beds", "3");
          assertThat(received).isEmpty();
        });
    assertThat(received.stream().map(call -> call.replace(" null", "")))
        .containsExactly(
            "PUT /api/indexes/plants/records/7 {\"id\":7,\"latin_name\":\"Rosa canina\"}",
            "PUT /api/indexes/plants/records/8 {\"note\":\"unreadable\"}",
            "PUT /api/indexes/plants/records/a%20b/9 {\"id\":9,\"latin_name\":\"Acer\"}",
            "DELETE /api/indexes/beds/records/3 ");
    assertThat(failed).containsExactly("plants 8");

    received.clear();
    transaction.executeWithoutResult(
        status -> {
          push.delete("plants", "7");
          status.setRollbackOnly();
        });
    assertThat(received).isEmpty();

    push.delete("plants", "7");
    assertThat(received).hasSize(1);
    server.stop(0);
    assertThatThrownBy(() -> push.delete("plants", "7")).isInstanceOf(UnreachableException.class);
    assertThat(failed).hasSize(1);
  }
}
