import unittest,sys,io
from collections import Counter
from tests.__main__ import Timed,_flat,HERE
found = unittest.defaultTestLoader.discover(str(HERE), pattern="test_*.py", top_level_dir=str(HERE.parent))
chosen = unittest.TestSuite(t for t in _flat(found) if ".browser." not in t.id())
import time; b=time.time()
unittest.TextTestRunner(verbosity=0, stream=io.StringIO(), resultclass=Timed).run(chosen)
c=Counter()
for s,n in Timed.took: c['.'.join(n.split('.')[:2])]+=s
print(time.time()-b, sum(c.values())); print(c.most_common(25))
print(sorted(Timed.took,reverse=True)[:25])
