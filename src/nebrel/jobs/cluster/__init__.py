"""Jobs on a cluster of `dask.distributed`."""
