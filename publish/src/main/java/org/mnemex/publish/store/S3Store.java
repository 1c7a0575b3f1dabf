package org.mnemex.publish.store;

import java.io.IOException;
import java.net.URI;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import javax.net.ssl.TrustManager;
import org.jspecify.annotations.Nullable;
import software.amazon.awssdk.auth.credentials.AwsBasicCredentials;
import software.amazon.awssdk.auth.credentials.AwsCredentialsProvider;
import software.amazon.awssdk.auth.credentials.DefaultCredentialsProvider;
import software.amazon.awssdk.auth.credentials.StaticCredentialsProvider;
import software.amazon.awssdk.core.checksums.RequestChecksumCalculation;
import software.amazon.awssdk.core.checksums.ResponseChecksumValidation;
import software.amazon.awssdk.core.exception.SdkException;
import software.amazon.awssdk.core.sync.RequestBody;
import software.amazon.awssdk.core.sync.ResponseTransformer;
import software.amazon.awssdk.http.urlconnection.UrlConnectionHttpClient;
import software.amazon.awssdk.regions.Region;
import software.amazon.awssdk.services.s3.S3Client;
import software.amazon.awssdk.services.s3.model.GetObjectRequest;
import software.amazon.awssdk.services.s3.model.GetObjectResponse;
import software.amazon.awssdk.services.s3.model.PutObjectRequest;
import software.amazon.awssdk.services.s3.model.S3Exception;
import software.amazon.awssdk.services.s3.model.S3Object;
import software.amazon.awssdk.utils.Md5Utils;

/** A store behind the S3 protocol. It must know conditional writes. */
public final class S3Store implements ObjectStore {
  private static final int NOT_MODIFIED = 304;
  private static final int NOT_FOUND = 404;
  private static final int CONFLICT = 409;
  private static final int PRECONDITION_FAILED = 412;
  private static final Duration CONNECT = Duration.ofSeconds(5);
  private static final Duration SILENCE = Duration.ofSeconds(20);
  private static final Duration CALL = Duration.ofMinutes(5);

  private final S3Client client;
  private final String bucket;
  private final String prefix;
  private final String place;

  /**
   * Where the store is and how to sign in.
   *
   * @param endpoint address of the server; null for that of the region
   * @param region the region; servers without regions take any
   * @param bucket the bucket
   * @param prefix beginning of all names; empty, or ending with a slash
   * @param keyId identifier of the access key; null for what the environment says
   * @param secret the secret access key; null for what the environment says
   */
  public record Place(
      @Nullable URI endpoint,
      String region,
      String bucket,
      String prefix,
      @Nullable String keyId,
      @Nullable String secret) {
    /** Hides the secret. */
    @Override
    public String toString() {
      return "s3://%s/%s%s".formatted(bucket, prefix, endpoint == null ? "" : " at " + endpoint);
    }
  }

  /**
   * A store that trusts what Java does, or others.
   *
   * @param trusted who decides whether the certificate of the server is trusted; null for Java
   */
  public S3Store(Place place, TrustManager @Nullable [] trusted) {
    this.bucket = place.bucket();
    this.prefix = place.prefix();
    this.place = place.toString();
    AwsCredentialsProvider credentials =
        place.keyId() == null || place.secret() == null
            ? DefaultCredentialsProvider.builder().build()
            : StaticCredentialsProvider.create(
                AwsBasicCredentials.create(place.keyId(), place.secret()));
    UrlConnectionHttpClient.Builder connections =
        UrlConnectionHttpClient.builder().connectionTimeout(CONNECT).socketTimeout(SILENCE);
    if (trusted != null) {
      connections.tlsTrustManagersProvider(() -> trusted);
    }
    this.client =
        S3Client.builder()
            .region(Region.of(place.region()))
            .credentialsProvider(credentials)
            .endpointOverride(place.endpoint())
            // Buckets have names of hosts only where there is no address of our own.
            .forcePathStyle(place.endpoint() != null)
            // Not all servers know the newer checksums; contents are compared by us.
            .requestChecksumCalculation(RequestChecksumCalculation.WHEN_REQUIRED)
            .responseChecksumValidation(ResponseChecksumValidation.WHEN_REQUIRED)
            .httpClientBuilder(connections)
            .overrideConfiguration(config -> config.apiCallTimeout(CALL))
            .build();
  }

  @Override
  public String place() {
    return place;
  }

  @Override
  public @Nullable StoredObject get(String name) throws IOException {
    return get(name, null);
  }

  @Override
  public @Nullable StoredObject getIfOther(String name, String tag) throws IOException {
    return get(name, tag);
  }

  private @Nullable StoredObject get(String name, @Nullable String known) throws IOException {
    GetObjectRequest request =
        GetObjectRequest.builder().bucket(bucket).key(prefix + name).ifNoneMatch(known).build();
    try {
      var response = client.getObject(request, ResponseTransformer.<GetObjectResponse>toBytes());
      return new StoredObject(response.asByteArrayUnsafe(), response.response().eTag());
    } catch (S3Exception e) {
      if (e.statusCode() == NOT_MODIFIED) {
        return null;
      }
      if (e.statusCode() == NOT_FOUND && !"NoSuchBucket".equals(code(e))) {
        return null;
      }
      throw failed("read", name, e);
    } catch (SdkException e) {
      throw failed("read", name, e);
    }
  }

  @Override
  public void put(String name, byte[] content) throws IOException {
    try {
      client.putObject(request(name, content).build(), RequestBody.fromBytes(content));
    } catch (SdkException e) {
      throw failed("written", name, e);
    }
  }

  @Override
  public String replace(String name, byte[] content, @Nullable String tag) throws IOException {
    PutObjectRequest.Builder request = request(name, content);
    if (tag == null) {
      request.ifNoneMatch("*");
    } else {
      request.ifMatch(tag);
    }
    try {
      return client.putObject(request.build(), RequestBody.fromBytes(content)).eTag();
    } catch (S3Exception e) {
      boolean gone = tag != null && e.statusCode() == NOT_FOUND && !"NoSuchBucket".equals(code(e));
      if (gone || e.statusCode() == PRECONDITION_FAILED || e.statusCode() == CONFLICT) {
        // The client sends again what was not answered; what it is compared with may be our own.
        StoredObject now = get(name);
        if (now != null && Arrays.equals(now.content(), content)) {
          return now.tag();
        }
        throw new ReplacedException(place, name);
      }
      throw failed("written", name, e);
    } catch (SdkException e) {
      throw failed("written", name, e);
    }
  }

  /** The store compares what arrives with the checksum, so that nothing cut is kept. */
  private PutObjectRequest.Builder request(String name, byte[] content) {
    return PutObjectRequest.builder()
        .bucket(bucket)
        .key(prefix + name)
        .contentMD5(Md5Utils.md5AsBase64(content));
  }

  @Override
  public List<String> names(String beginning) throws IOException {
    List<String> names = new ArrayList<>();
    try {
      for (S3Object object :
          client
              .listObjectsV2Paginator(list -> list.bucket(bucket).prefix(prefix + beginning))
              .contents()) {
        names.add(object.key().substring(prefix.length()));
      }
      return names;
    } catch (SdkException e) {
      throw failed("listed", beginning + "…", e);
    }
  }

  @Override
  public void remove(List<String> names) throws IOException {
    for (String name : names) {
      try {
        client.deleteObject(request -> request.bucket(bucket).key(prefix + name));
      } catch (SdkException e) {
        throw failed("removed", name, e);
      }
    }
  }

  private static @Nullable String code(S3Exception e) {
    return e.awsErrorDetails() == null ? null : e.awsErrorDetails().errorCode();
  }

  private IOException failed(String what, String name, SdkException e) {
    return new IOException(
        "'%s' cannot be %s in the store %s: %s".formatted(name, what, place, e.getMessage()), e);
  }

  @Override
  public void close() {
    client.close();
  }
}
