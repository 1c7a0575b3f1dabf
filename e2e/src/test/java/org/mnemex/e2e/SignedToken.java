package org.mnemex.e2e;

import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;
import tools.jackson.databind.json.JsonMapper;

/** Signs tokens as a backend does (RFC 7519 with HS256). */
final class SignedToken {
  private SignedToken() {}

  static String of(String secret, List<String> endpoints, String filter, long seconds) {
    String content = content("HS256", endpoints, filter, seconds);
    try {
      Mac mac = Mac.getInstance("HmacSHA256");
      mac.init(new SecretKeySpec(secret.getBytes(StandardCharsets.UTF_8), "HmacSHA256"));
      return content + "." + base64(mac.doFinal(content.getBytes(StandardCharsets.US_ASCII)));
    } catch (GeneralSecurityException e) {
      throw new AssertionError(e);
    }
  }

  /** A token that claims to need no signature. */
  static String unsigned(List<String> endpoints) {
    return content("none", endpoints, "", 60) + ".";
  }

  private static String content(
      String algorithm, List<String> endpoints, String filter, long seconds) {
    JsonMapper json = JsonMapper.shared();
    Map<String, Object> claims =
        filter.isEmpty()
            ? Map.of("endpoints", endpoints, "exp", Instant.now().getEpochSecond() + seconds)
            : Map.of(
                "endpoints",
                endpoints,
                "filter",
                filter,
                "exp",
                Instant.now().getEpochSecond() + seconds);
    return base64(json.writeValueAsBytes(Map.of("alg", algorithm, "typ", "JWT")))
        + "."
        + base64(json.writeValueAsBytes(claims));
  }

  private static String base64(byte[] bytes) {
    return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
  }
}
