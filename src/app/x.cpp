namespace mirolux{}
