package org.mnemex.service;

import java.nio.file.Path;
import java.util.List;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;

/**
 * Settings of the service, under {@code mnemex}.
 *
 * @param data folder for our records and the indexes
 * @param recordQueries whether the words of searches are recorded, to compare editions by
 * @param allow what definitions may refer to
 */
@ConfigurationProperties("mnemex")
public record MnemexSettings(
    Path data, @DefaultValue("true") boolean recordQueries, @DefaultValue Allow allow) {

  /**
   * What definitions may refer to.
   *
   * @param variables environment variables; a {@code *} at the end allows all that start so
   * @param folders folders of databases and of files with passwords
   */
  public record Allow(
      @DefaultValue("MNEMEX_*") List<String> variables, @DefaultValue(".") List<Path> folders) {}
}
