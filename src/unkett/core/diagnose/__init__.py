"""From the rider's complaint to the cause: causes by practice and proof, and the check that is worth most next."""
