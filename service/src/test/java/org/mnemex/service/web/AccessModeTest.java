package org.mnemex.service.web;

import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doThrow;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.net.InetAddress;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.mnemex.service.access.Keys;
import org.mnemex.service.access.Tokens;

/** Where the service may listen, and what it says when it may not. */
class AccessModeTest {
  private static MnemexSettings settings(boolean keys, @Nullable String first, List<String> proxy) {
    return new MnemexSettings(
        Path.of("data"),
        true,
        new MnemexSettings.Allow(List.of(), List.of()),
        keys,
        first,
        null,
        new MnemexSettings.Tokens(null, null, null, Duration.ofHours(1)),
        proxy,
        Duration.ofDays(1),
        Duration.ofDays(1),
        Duration.ofSeconds(1),
        MnemexSettings.Role.ALL,
        null,
        null,
        new MnemexSettings.Node(null, null, null, null, null));
  }

  @ParameterizedTest
  @CsvSource({
    "127.0.0.1, false, '', '',",
    "::1,       false, '', '',",
    "0.0.0.0,   false, web, 10.0.0.0/8, a service without keys may only listen on 127.0.0.1",
    "10.1.2.3,  true, '', '', server.address is 10.1.2.3 without TLS",
    "10.1.2.3,  true, web, '',",
    "10.1.2.3,  true, '', 10.0.0.0/8,"
  })
  void theNetworkNeedsKeysAndTlsOrAProxy(
      String address, boolean keys, String bundle, String proxy, @Nullable String refusal)
      throws Exception {
    MnemexSettings settings = settings(keys, null, proxy.isEmpty() ? List.of() : List.of(proxy));
    InetAddress bound = InetAddress.getByName(address);
    Keys known = mock();
    if (refusal == null) {
      assertThatCode(() -> new AccessMode(bound, bundle, settings, known, mock()))
          .doesNotThrowAnyException();
    } else {
      assertThatThrownBy(() -> new AccessMode(bound, bundle, settings, known, mock()))
          .isInstanceOf(SettingsException.class)
          .hasMessageContaining(refusal);
    }
  }

  @Test
  void aFirstKeyOfAnotherFormIsRefused() {
    Keys keys = mock();
    when(keys.isEmpty()).thenReturn(true);
    doThrow(new IllegalArgumentException("the first key is …")).when(keys).add(any(), any(), any());
    Tokens tokens = mock();
    InetAddress local = InetAddress.getLoopbackAddress();
    assertThatThrownBy(
            () ->
                new AccessMode(local, "", settings(true, "mnemex_short", List.of()), keys, tokens))
        .isInstanceOf(SettingsException.class)
        .hasMessage("the first key is …");
  }
}
