"""Families of matter, as the path loop meets them.

A family is one file: which stacks of bands are its (`takes`), the rows that its kernel reads of each (`row`, `Rows`), and its kernel over
its own queue (`shade`). `FAMILIES` in `registry` lists them; adding one leaves the kernels of the others alone. `layout` numbers the registers of
bands from their descriptions, `lobes` joins the responses that bands bring with them.
"""
