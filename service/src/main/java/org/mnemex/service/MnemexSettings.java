package org.mnemex.service;

import java.nio.file.Path;
import org.springframework.boot.context.properties.ConfigurationProperties;

/**
 * Settings of the service, under {@code mnemex}.
 *
 * @param data folder for our records and the indexes
 */
@ConfigurationProperties("mnemex")
public record MnemexSettings(Path data) {}
