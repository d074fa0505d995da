import time
from dataclasses import replace
from datetime import timedelta, date
from tests.make import NOW, REFERENCE, entry, numbered, tank, test_entry
from scripts.bench import record
from jarbloom.core.bloom.ensemble import Settings, prepare, project
from jarbloom.core.bloom.forecast import summarise
from jarbloom.core.planner.plan import propose, all_at_once, in_thirds
from jarbloom.core.planner.lots import lots_of
from jarbloom.core.planner.terms import Terms, terms_of
from jarbloom.core.planner.water import standings
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.model import Animals, Batch
t, log = tank(kh_dkh=30, quarantine="in_place"), record(25)
W=[Animals(k,n) for k,n in (("harlequin_rasbora",12),("ember_tetra",10),("kuhli_loach",6),("angelfish",2),("cherry_shrimp",10),("zebra_danio",8),("nerite_snail",3),("bristlenose",1),("betta",1),("german_blue_ram",2)) if k in REFERENCE.species]
print([a.species for a in W])
for m in (600,2000):
    e=prepare(t,log,NOW,REFERENCE,Settings(members=m))
    b=time.perf_counter(); f=summarise(e,[]); print('sum',time.perf_counter()-b, f.readiness)
    terms=terms_of(t,log,NOW.date(),REFERENCE.schools,f.readiness.p90)
    for tt,nm in ((terms,'bb'),(replace(terms,gap_days=0,gap_sensitive_days=0),'testled'),(replace(terms,weekdays=frozenset({5,6}),quarantine_days=21),'q+wkend')):
        b=time.perf_counter(); p=propose(e,W,tt); print(m,nm,time.perf_counter()-b)
        for x in p.placed: print('  ',x.planned,x.bought,x.binding,round(x.watched.p_safe,3),round(x.sure,1),round(x.together,1),round(x.watched.nh3_p90,4),round(x.watched.no2_p90,3),[(a.species,a.count) for a in x.items])
        print('  left',p.left,p.why_left)
    bs=[Batch(k+1,'x',x.planned,x.items) for k,x in enumerate(p.placed)]
    for plan in (bs, all_at_once(W,p.placed[0].planned), in_thirds(lots_of(W,(),REFERENCE.species,t.started),p.placed[0].planned)):
        b=time.perf_counter(); st=standings(e,plan,[load_of(x.items,REFERENCE.species,t.temp_c,adult=True).total for x in plan],0.0); print('standings',time.perf_counter()-b)
        for s in st: print('   ',s.batch.planned,round(s.watched.p_safe,3),round(s.sure,1),round(s.together,1),round(s.watched.no2_p90,3))
