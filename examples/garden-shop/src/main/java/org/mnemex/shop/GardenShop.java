package org.mnemex.shop;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;

/** Starts the shop. */
@SpringBootApplication
public class GardenShop {
  /** Starts it; the database is made in {@code mnemex-data} if it is not there. */
  public static void main(String[] arguments) throws IOException {
    Files.createDirectories(Path.of("mnemex-data"));
    SpringApplication.run(GardenShop.class, arguments);
  }
}
