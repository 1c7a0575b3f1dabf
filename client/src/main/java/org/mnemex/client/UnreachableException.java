package org.mnemex.client;

import java.net.URI;
import javax.net.ssl.SSLException;

/** The service does not answer. */
public final class UnreachableException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  UnreachableException(URI service, Throwable cause) {
    super(
        cause instanceof SSLException
            ? "no secure connection to %s: %s".formatted(service, cause.getMessage())
            : "no service answers at "
                + service
                + "; start one with 'mnemex serve' or set MNEMEX_URL",
        cause);
  }
}
