from . import bench
