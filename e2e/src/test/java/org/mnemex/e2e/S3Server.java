package org.mnemex.e2e;

import java.net.URI;
import java.util.Properties;
import org.gaul.s3proxy.BlobStores;
import org.gaul.s3proxy.S3Proxy;
import org.gaul.s3proxy.auth.AuthenticationType;
import org.gaul.s3proxy.blobstore.BlobStore;
import software.amazon.awssdk.services.s3.model.CreateBucketRequest;

/** A server that speaks the S3 protocol, with a bucket, in this process. */
final class S3Server implements AutoCloseable {
  static final String SECRET = "not-a-secret-of-anybody";

  final String endpoint;
  private final S3Proxy server;

  private S3Server(S3Proxy server) {
    this.server = server;
    this.endpoint = "http://127.0.0.1:" + server.getPort();
  }

  /**
   * Starts it.
   *
   * @param key the access key, whose secret is {@link #SECRET}
   */
  static S3Server start(String key, String bucket) throws Exception {
    BlobStore blobs = BlobStores.create("transient-nio2", new Properties());
    S3Proxy server =
        S3Proxy.builder()
            .blobStore(blobs)
            .awsAuthentication(AuthenticationType.AWS_V2_OR_V4, key, SECRET)
            .endpoint(URI.create("http://127.0.0.1:0"))
            .build();
    server.start();
    blobs.createContainer(CreateBucketRequest.builder().bucket(bucket).build());
    return new S3Server(server);
  }

  @Override
  public void close() throws Exception {
    server.stop();
  }
}
