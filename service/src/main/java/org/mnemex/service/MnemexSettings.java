package org.mnemex.service;

import java.nio.file.Path;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;

/**
 * Settings of the service, under {@code mnemex}.
 *
 * @param data folder for our records and the indexes
 * @param recordQueries whether the words of searches are remembered, to compare editions by
 */
@ConfigurationProperties("mnemex")
public record MnemexSettings(Path data, @DefaultValue("true") boolean recordQueries) {}
