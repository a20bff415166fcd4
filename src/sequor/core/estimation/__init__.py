"""What reference lines say of the camera: equations, priors, least squares, and who does not fit."""
