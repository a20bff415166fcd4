"""Every sentence that the product says."""
