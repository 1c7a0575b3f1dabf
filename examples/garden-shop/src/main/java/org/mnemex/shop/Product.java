package org.mnemex.shop;

import java.util.Locale;

/**
 * A row of the shop's database.
 *
 * @param priceCents the price in hundredths
 */
public record Product(String sku, String name, String about, int priceCents, int stock) {
  /** The price as people read it. */
  public String price() {
    return String.format(Locale.ROOT, "%d.%02d", priceCents / 100, priceCents % 100);
  }
}
