package org.mnemex.service.web;

import java.io.IOException;
import java.net.InetAddress;
import java.nio.file.Files;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.access.Keys;
import org.mnemex.service.access.Right;
import org.mnemex.service.access.Scope;
import org.mnemex.service.access.Tokens;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * What the service is open to. A service without keys listens to this machine only; any other needs
 * keys, and TLS or a trusted proxy in front of it.
 */
@Component
class AccessMode {
  private static final Logger LOG = LoggerFactory.getLogger(AccessMode.class);

  AccessMode(
      @Value("${server.address}") InetAddress address,
      @Value("${server.ssl.bundle:}") String bundle,
      MnemexSettings settings,
      Keys keys,
      Tokens tokens) {
    boolean local = address.isLoopbackAddress();
    if (!local && !settings.keys()) {
      throw new SettingsException(
          "server.address is %s, but a service without keys may only listen on 127.0.0.1; set --mnemex.keys=true"
              .formatted(address.getHostAddress()));
    }
    if (!local && bundle.isEmpty() && settings.behindProxy().isEmpty()) {
      throw new SettingsException(
          "server.address is %s without TLS, so keys could be read on the network; set --server.ssl.bundle, or --mnemex.behind-proxy with the networks of your proxy"
              .formatted(address.getHostAddress()));
    }
    if (settings.keys() && keys.isEmpty() && settings.role() == MnemexSettings.Role.ALL) {
      makeFirst(settings, keys);
    }
    LOG.info(
        "open to {}{}",
        local ? "this machine" : "the network",
        !settings.keys()
            ? ", without keys: everybody here may do everything"
            : " with keys (%d active)%s%s"
                .formatted(
                    keys.all().stream().filter(key -> keys.works(key.id())).count(),
                    tokens.areAccepted() ? " and signed tokens" : "",
                    bundle.isEmpty()
                        ? settings.behindProxy().isEmpty()
                            ? ", without TLS"
                            : ", behind a proxy of " + settings.behindProxy()
                        : ", with TLS"));
  }

  private static void makeFirst(MnemexSettings settings, Keys keys) {
    String given = given(settings);
    if (given != null) {
      try {
        keys.add(given, "first", Right.ADMIN);
      } catch (IllegalArgumentException e) {
        throw new SettingsException(String.valueOf(e.getMessage()), e);
      }
      return;
    }
    Keys.NewKey first = keys.create("first", Right.ADMIN, Scope.ALL, null);
    // Not to the log, which others may read.
    System.out.printf(
        "%nThe first key, which may do everything. It is shown only now:%n%n  %s%n%n",
        first.secret());
  }

  private static @Nullable String given(MnemexSettings settings) {
    if (settings.firstKeyFile() == null) {
      return settings.firstKey();
    }
    try {
      return Files.readString(Path.of(settings.firstKeyFile())).strip();
    } catch (IOException e) {
      throw new SettingsException(
          "mnemex.first-key-file %s cannot be read".formatted(settings.firstKeyFile()), e);
    }
  }
}
