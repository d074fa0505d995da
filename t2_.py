exec(open('t_.py').read().split("for m in")[0])
import cProfile,pstats
e=prepare(t,log,NOW,REFERENCE,Settings(members=2000))
terms=Terms(NOW.date(),0,0,ready_from=date(2026,12,22),proof_asked=True)
for _ in range(2):
    b=time.perf_counter(); p=propose(e,W,terms); print(time.perf_counter()-b)
pr=cProfile.Profile(); pr.enable(); propose(e,W,terms); pr.disable()
pstats.Stats(pr).sort_stats('cumtime').print_stats(22)
