"""What stands on the stage, as rays meet it.

`embree` is the ray library, `standing` says where every part of every object stands, and `rays` are the kernels that send rays. A kind
of primitive is one file (`triangles`, `strands`): how it is given to the library, its rows, and its `surface_at`: what is there where a ray met it.
May import forms and documents; knows nothing of materials or light.
"""
