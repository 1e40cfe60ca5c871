"""The real interface, driven in headless Chromium against a real server on the test database."""
