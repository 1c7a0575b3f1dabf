package org.mnemex.service.endpoint;

import java.security.SecureRandom;
import java.util.HexFormat;

/**
 * Names under which definitions of endpoints are tried before they are applied, such as {@code
 * plant-search~5c0f…}. No definition can have such a name, and nobody can guess one.
 */
public final class TrialName {
  private static final char MARK = '~';
  private static final int RANDOM_BYTES = 16;
  private static final SecureRandom RANDOM = new SecureRandom();

  private TrialName() {}

  /** A new name for a trial of an endpoint. */
  public static String of(String endpoint) {
    byte[] random = new byte[RANDOM_BYTES];
    RANDOM.nextBytes(random);
    return endpoint + MARK + HexFormat.of().formatHex(random);
  }

  /** Whether a name is one of a trial. */
  public static boolean is(String name) {
    return name.indexOf(MARK) >= 0;
  }
}
