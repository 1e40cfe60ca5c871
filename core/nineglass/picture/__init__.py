"""From light to files and screens: exposure, display, PNG, JPEG and OpenEXR."""
