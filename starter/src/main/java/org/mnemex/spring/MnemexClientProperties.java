package org.mnemex.spring;

import java.net.URI;
import java.time.Duration;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;
import org.mnemex.client.ClientOptions;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;

/**
 * How an application calls the service.
 *
 * @param url where the service listens
 * @param key a key or token, sent with every call
 * @param author who asks, recorded with changes by a service without keys
 * @param connectTimeout the longest wait for a connection
 * @param timeout the longest wait for an answer
 * @param retries how often a search or a call that only reads is tried again when the service is
 *     busy
 * @param longestWait the longest pause before another try
 * @param sslBundle the bundle, under {@code spring.ssl.bundle}, that says whom to trust with https;
 *     null for what Java does
 */
@ConfigurationProperties("mnemex.client")
public record MnemexClientProperties(
    @DefaultValue("http://127.0.0.1:7077") URI url,
    @Nullable String key,
    @Nullable String author,
    @DefaultValue("2s") Duration connectTimeout,
    @DefaultValue("10s") Duration timeout,
    @DefaultValue("2") int retries,
    @DefaultValue("2s") Duration longestWait,
    @Nullable String sslBundle) {
  /**
   * The same for the client.
   *
   * @param application who asks if no author is given, or null
   * @param tls encrypted connections of the bundle; null without one
   */
  ClientOptions options(@Nullable String application, @Nullable SSLContext tls) {
    return new ClientOptions(
        author == null ? application : author,
        key,
        connectTimeout,
        timeout,
        retries,
        longestWait,
        tls);
  }

  /** Without the key, which does not belong into logs. */
  @Override
  public String toString() {
    return "MnemexClientProperties[url=%s, key=%s]".formatted(url, key == null ? "none" : "given");
  }
}
