package org.mnemex.service;

import org.jspecify.annotations.Nullable;
import org.springframework.boot.SpringBootExceptionReporter;

/** The service cannot start with its settings; the message says which, and what to do. */
public final class SettingsException extends RuntimeException {
  private static final long serialVersionUID = 1L;

  public SettingsException(String message) {
    this(message, null);
  }

  public SettingsException(String message, @Nullable Throwable cause) {
    super(message, cause);
  }

  /** Prints the message alone, in the place of a stack trace. Created by Spring Boot by name. */
  static final class Reporter implements SpringBootExceptionReporter {
    @Override
    public boolean reportException(Throwable failure) {
      for (Throwable at = failure; at != null; at = at.getCause()) {
        if (at instanceof SettingsException settings) {
          System.err.println("The service cannot start: " + settings.getMessage());
          return true;
        }
      }
      return false;
    }
  }
}
