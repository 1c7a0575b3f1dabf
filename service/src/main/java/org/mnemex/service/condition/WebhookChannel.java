package org.mnemex.service.condition;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Clock;
import java.time.Duration;
import java.util.Base64;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Posts messages to an address. Signed with HMAC-SHA256 (RFC 2104) over {@code id.timestamp.body},
 * in the fields {@code webhook-id}, {@code webhook-timestamp} (seconds since 1970, UTC) and {@code
 * webhook-signature} ({@code v1,} and Base64). Redirects are not followed.
 */
final class WebhookChannel implements Channel {
  private static final Duration TIMEOUT = Duration.ofSeconds(10);
  private static final String ALGORITHM = "HmacSHA256";
  private static final int OK = 2;
  private static final int HUNDRED = 100;

  private final int number;
  private final URI url;
  private final byte[] secret;
  private final Clock clock;
  private final HttpClient http =
      HttpClient.newBuilder()
          .connectTimeout(TIMEOUT)
          .followRedirects(HttpClient.Redirect.NEVER)
          .build();

  /**
   * @param number its place in the settings, from 1
   * @param secret with which messages are signed
   */
  WebhookChannel(int number, URI url, String secret, Clock clock) {
    this.number = number;
    this.url = url;
    this.secret = secret.getBytes(StandardCharsets.UTF_8);
    this.clock = clock;
  }

  /** Without the path, in which many addresses carry a secret. */
  @Override
  public String name() {
    String port = url.getPort() < 0 ? "" : ":" + url.getPort();
    return "webhook %d, %s://%s%s".formatted(number, url.getScheme(), url.getHost(), port);
  }

  @Override
  public void send(String id, Message message, byte[] json) throws IOException {
    String timestamp = Long.toString(clock.instant().getEpochSecond());
    HttpRequest request =
        HttpRequest.newBuilder(url)
            .timeout(TIMEOUT)
            .header("Content-Type", "application/json")
            .header("webhook-id", id)
            .header("webhook-timestamp", timestamp)
            .header("webhook-signature", "v1," + signature(id + "." + timestamp + ".", json))
            .POST(HttpRequest.BodyPublishers.ofByteArray(json))
            .build();
    try {
      HttpResponse<Void> answer = http.send(request, HttpResponse.BodyHandlers.discarding());
      if (answer.statusCode() / HUNDRED != OK) {
        throw new IOException("it answered with status " + answer.statusCode());
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw new IOException("the service is stopping", e);
    }
  }

  private String signature(String before, byte[] json) {
    try {
      Mac mac = Mac.getInstance(ALGORITHM);
      mac.init(new SecretKeySpec(secret, ALGORITHM));
      mac.update(before.getBytes(StandardCharsets.UTF_8));
      return Base64.getEncoder().encodeToString(mac.doFinal(json));
    } catch (GeneralSecurityException e) {
      throw new IllegalStateException("every Java has " + ALGORITHM, e);
    }
  }
}
