package org.mnemex.service;

import java.net.URI;
import java.nio.file.Path;
import java.time.Duration;
import org.jspecify.annotations.Nullable;
import org.springframework.boot.context.properties.bind.DefaultValue;
import org.springframework.util.unit.DataSize;

/**
 * A store of objects, under {@code mnemex.store}.
 *
 * @param kind what kind of store it is
 * @param folder with {@code folder}: a folder that all machines share
 * @param endpoint with {@code s3}: address of the server; null for that of the region
 * @param region with {@code s3}: the region; servers without regions take any
 * @param bucket with {@code s3}: the bucket
 * @param prefix with {@code s3}: what the names of all objects begin with
 * @param keyId with {@code s3}: identifier of the access key; null for the credentials of the
 *     environment, as the AWS SDK finds them
 * @param secretFile with {@code s3}: file with the secret access key
 * @param sslBundle with {@code s3}: the bundle, under {@code spring.ssl.bundle}, that says whom to
 *     trust when the server is called with https; null for what Java does
 * @param signingKeyFile for a builder: file with the private key by which it signs what it offers;
 *     null if it does not
 * @param signerFile for a search node: file with the public key of the builder that it follows;
 *     null if it believes whatever is in the store
 * @param every how often a builder looks for what is new here, and others in the store
 * @param bandwidth how much may be sent or fetched in a second; 0 for no limit
 * @param grace how long a builder keeps files that are no longer part of an edition
 * @param cache how much a search node may keep on its disk
 */
public record StoreSettings(
    Kind kind,
    @Nullable Path folder,
    @Nullable URI endpoint,
    @DefaultValue("us-east-1") String region,
    @Nullable String bucket,
    @DefaultValue("") String prefix,
    @Nullable String keyId,
    @Nullable Path secretFile,
    @Nullable String sslBundle,
    @Nullable Path signingKeyFile,
    @Nullable Path signerFile,
    @DefaultValue("500ms") Duration every,
    @DefaultValue("0B") DataSize bandwidth,
    @DefaultValue("1h") Duration grace,
    @DefaultValue("100GB") DataSize cache) {

  /** A kind of store. */
  public enum Kind {
    /** A folder of a file system that all machines share. */
    FOLDER,
    /** A server that speaks the S3 protocol. */
    S3
  }
}
