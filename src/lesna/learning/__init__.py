"""What trials teach: edge life and force from few, noisy, censored readings, and the one change to try next (docs/physics.md section 14).

Numbers in, numbers out, but for `settings` and `scope`, which read records. Nothing here opens a file or a store.
"""
