"""What bends, holds and vibrates: tool and holder as a beam, grip, stability, measured responses and sound."""
