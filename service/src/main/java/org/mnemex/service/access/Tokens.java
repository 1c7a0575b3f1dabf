package org.mnemex.service.access;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import javax.crypto.spec.SecretKeySpec;
import org.jspecify.annotations.Nullable;
import org.mnemex.service.MnemexSettings;
import org.mnemex.service.SettingsException;
import org.springframework.security.oauth2.jose.jws.MacAlgorithm;
import org.springframework.security.oauth2.jose.jws.SignatureAlgorithm;
import org.springframework.security.oauth2.jwt.Jwt;
import org.springframework.security.oauth2.jwt.JwtException;
import org.springframework.security.oauth2.jwt.JwtTimestampValidator;
import org.springframework.security.oauth2.jwt.NimbusJwtDecoder;
import org.springframework.stereotype.Component;

/**
 * Scoped tokens: JSON Web Tokens (RFC 7519) that a backend signs, so that a browser searches only
 * what its user may see.
 *
 * <p>Claims: {@code endpoints} (names), {@code filter} (a filter that every search must meet, or
 * none), {@code exp} (required, at most {@code mnemex.tokens.longest} ahead), and {@code sub} for
 * the activity log. Signed with HS256 and a shared secret, or with RS256 or ES256 and a key of a
 * JSON Web Key Set (RFC 7517).
 */
@Component
public class Tokens {
  private static final int MIN_SECRET_BYTES = 32;

  private final List<NimbusJwtDecoder> decoders = new ArrayList<>();
  private final Duration longest;
  private final Clock clock;

  Tokens(MnemexSettings settings, Clock clock) {
    this.clock = clock;
    this.longest = settings.tokens().longest();
    byte[] secret = secret(settings.tokens());
    if (secret != null) {
      decoders.add(
          NimbusJwtDecoder.withSecretKey(new SecretKeySpec(secret, "HmacSHA256"))
              .macAlgorithm(MacAlgorithm.HS256)
              .build());
    }
    String keySet = settings.tokens().keySet();
    if (keySet != null) {
      decoders.add(
          NimbusJwtDecoder.withJwkSetUri(
                  keySet.contains("://") ? keySet : Path.of(keySet).toUri().toString())
              .jwsAlgorithm(SignatureAlgorithm.RS256)
              .jwsAlgorithm(SignatureAlgorithm.ES256)
              .build());
    }
    JwtTimestampValidator times = new JwtTimestampValidator(Duration.ZERO);
    times.setClock(clock);
    decoders.forEach(decoder -> decoder.setJwtValidator(times));
  }

  private static byte @Nullable [] secret(MnemexSettings.Tokens tokens) {
    String secret = tokens.secret();
    if (tokens.secretFile() != null) {
      try {
        secret = Files.readString(Path.of(tokens.secretFile())).strip();
      } catch (IOException e) {
        throw new SettingsException(
            "mnemex.tokens.secret-file %s cannot be read".formatted(tokens.secretFile()), e);
      }
    }
    if (secret == null) {
      return null;
    }
    byte[] bytes = secret.getBytes(StandardCharsets.UTF_8);
    if (bytes.length < MIN_SECRET_BYTES) {
      throw new SettingsException(
          "the secret of tokens has %d bytes; HS256 needs at least %d (RFC 7518, 3.2)"
              .formatted(bytes.length, MIN_SECRET_BYTES));
    }
    return bytes;
  }

  /** Whether tokens are accepted at all. */
  public boolean areAccepted() {
    return !decoders.isEmpty();
  }

  /**
   * The caller that a token names.
   *
   * @return null if the token is not valid now
   */
  public @Nullable Caller find(String text) {
    for (NimbusJwtDecoder decoder : decoders) {
      try {
        return caller(decoder.decode(text));
      } catch (JwtException | IllegalArgumentException e) {
        // Perhaps another kind of signature; the caller learns nothing of the reason.
      }
    }
    return null;
  }

  private Caller caller(Jwt jwt) {
    Instant expires = jwt.getExpiresAt();
    if (expires == null || expires.isAfter(clock.instant().plus(longest))) {
      throw new IllegalArgumentException("a token expires within " + longest);
    }
    List<String> endpoints = jwt.getClaimAsStringList("endpoints");
    if (endpoints == null) {
      throw new IllegalArgumentException("a token names its endpoints");
    }
    Object filter = jwt.getClaims().get("filter");
    if (filter != null && !(filter instanceof String)) {
      throw new IllegalArgumentException("a filter is a text");
    }
    return new Caller(
        "token",
        jwt.getSubject() == null ? "token" : jwt.getSubject(),
        Right.SEARCH,
        List.of(new Scope(List.of(), endpoints, (String) filter, List.of(), List.of(), null)),
        expires);
  }
}
