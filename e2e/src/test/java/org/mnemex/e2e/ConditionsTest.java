package org.mnemex.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.util.Base64;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicInteger;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.mnemex.client.ConditionsTold;

/** Trouble is told once, over a webhook and by e-mail, and so is its end. */
class ConditionsTest {
  private static final String SECRET = "a secret of the garden";
  private static final int REFUSED = 500;
  private static final int TAKEN = 204;

  @TempDir private static Path folder;
  private static Path garden;
  private static RunningService service;
  private static HttpServer hook;
  private static GreenMail mail;
  private static final List<Posted> POSTED = new CopyOnWriteArrayList<>();
  private static final AtomicInteger REFUSING = new AtomicInteger();

  /** What was posted to the webhook, taken or not. */
  private record Posted(String id, String body, boolean signed, boolean taken) {}

  @BeforeAll
  static void start() throws Exception {
    garden = GardenFiles.create(folder, 200);
    hook = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
    hook.createContext("/trouble", ConditionsTest::take);
    hook.start();
    mail = new GreenMail(new ServerSetup(0, "127.0.0.1", ServerSetup.PROTOCOL_SMTP));
    mail.start();
    Path secret = folder.resolve("hook-secret");
    Files.writeString(secret, SECRET + "\n");
    service =
        RunningService.configured(
            folder,
            "--mnemex.conditions.service=Quillmere search",
            "--mnemex.conditions.quiet=300ms",
            "--mnemex.conditions.every=100ms",
            "--mnemex.conditions.disk-free=0",
            "--mnemex.conditions.webhooks[0].url=http://127.0.0.1:%d/trouble?token=hidden"
                .formatted(hook.getAddress().getPort()),
            "--mnemex.conditions.webhooks[0].secret-file=" + secret,
            "--mnemex.conditions.mail.to=gardener@quillmere.example",
            "--mnemex.conditions.mail.from=search@quillmere.example",
            "--spring.mail.host=127.0.0.1",
            "--spring.mail.port=" + mail.getSmtp().getPort());
    service.applyGarden();
  }

  @AfterAll
  static void stop() {
    service.close();
    hook.stop(0);
    mail.stop();
  }

  private static void take(HttpExchange call) throws IOException {
    try (call) {
      String body = new String(call.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
      String id = call.getRequestHeaders().getFirst("webhook-id");
      String signed =
          id + "." + call.getRequestHeaders().getFirst("webhook-timestamp") + "." + body;
      boolean isTaken = REFUSING.getAndUpdate(left -> Math.max(0, left - 1)) == 0;
      POSTED.add(
          new Posted(
              id,
              body,
              signature(signed).equals(call.getRequestHeaders().getFirst("webhook-signature")),
              isTaken));
      call.sendResponseHeaders(isTaken ? TAKEN : REFUSED, -1);
    }
  }

  private static String signature(String text) {
    try {
      Mac mac = Mac.getInstance("HmacSHA256");
      mac.init(new SecretKeySpec(SECRET.getBytes(StandardCharsets.UTF_8), "HmacSHA256"));
      return "v1,"
          + Base64.getEncoder().encodeToString(mac.doFinal(text.getBytes(StandardCharsets.UTF_8)));
    } catch (GeneralSecurityException e) {
      throw new AssertionError(e);
    }
  }

  private static List<Posted> taken() {
    return POSTED.stream().filter(Posted::taken).toList();
  }

  private static ConditionsTold told() {
    return service.client.conditions().list();
  }

  @Test
  void troubleIsToldOnceAndSoIsItsEnd() throws Exception {
    CommandLineTest.Outcome test =
        CommandLineTest.run(service.url.toString(), folder, List.of("conditions", "--test"));
    assertThat(test.out())
        .containsPattern("webhook 1, http://127.0.0.1:\\d+ +arrived")
        .containsPattern("mail to gardener@quillmere.example +arrived")
        .doesNotContain("hidden", "trouble");
    assertThat(taken()).hasSize(1).allMatch(Posted::signed);
    assertThat(mail.getReceivedMessages()[0].getSubject())
        .isEqualTo("Quillmere search: a test message");

    REFUSING.set(1);
    GardenFiles.run(garden, "DELETE FROM accession WHERE rowid % 3 > 0");
    RunningService.await(() -> !told().held().isEmpty() && taken().size() == 2);
    ConditionsTold.Entry held = told().held().getFirst();
    assertThat(held.condition()).isEqualTo("held");
    assertThat(held.about()).isEqualTo("plants");
    assertThat(held.text()).startsWith("index 'plants' waits for somebody: ");
    // The same message came twice, because it was refused the first time.
    List<Posted> about = POSTED.stream().filter(one -> one.id().startsWith("message-")).toList();
    assertThat(about).hasSize(2).allMatch(Posted::signed);
    assertThat(about.getFirst().id()).isEqualTo(about.getLast().id());
    assertThat(about.getLast().body())
        .contains(
            "\"state\":\"begun\"", "\"condition\":\"held\"", "\"service\":\"Quillmere search\"");
    assertThat(mail.getReceivedMessages()[1].getSubject())
        .isEqualTo("Quillmere search: held, plants");
    assertThat(service.get("/api/overview").body()).contains("\"conditions\":[{");

    // It still holds after a restart, and is not told again.
    service.kill();
    service.restart();
    assertThat(told().held()).extracting(ConditionsTold.Entry::since).containsExactly(held.since());
    service.client.agree("plants");
    RunningService.await(() -> told().held().isEmpty() && taken().size() == 3);
    assertThat(taken().getLast().body()).contains("\"state\":\"over\"");
    RunningService.await(() -> mail.getReceivedMessages().length == 3);
    assertThat(mail.getReceivedMessages()[2].getSubject())
        .isEqualTo("Quillmere search: over: held, plants");
    assertThat(told().ended().getFirst().ended()).isNotNull();
    assertThat(told().channels()).allMatch(one -> one.waiting() == 0 && one.error() == null);
  }
}
