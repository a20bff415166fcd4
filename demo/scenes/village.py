"""Wendlow valley hill village (invented), no horizon.  usage: run.sh village.py OUT WIDTH SPP"""
import sys; from kit import *
from scipy.spatial import cKDTree
OUT,W,SPP=sys.argv[1],int(sys.argv[2]),int(sys.argv[3]); H=W*2//3
T0=time.time(); CZ=11.; cam=Cam((0,0,CZ),0,4,-3.60,40,3000,2000); r=np.random.default_rng(11); sh={}; K=Kit(); LN=[]
n1=nz(1024,1.9,21,1); n2=nz(1024,1.3,22,6); n3=nz(1024,.8,23,30)
from scipy.ndimage import map_coordinates
def look(n,x,y,per):
    x,y=np.broadcast_arrays(np.asarray(x,np.float32),np.asarray(y,np.float32)); k=n.shape[0]/per; return map_coordinates(n,[y.ravel()*k,x.ravel()*k],order=1,mode='grid-wrap').reshape(x.shape)
def base(x,y):
    x=np.asarray(x,float); y=np.asarray(y,float); t=np.clip(y-46,-30,None)
    z=.35*t+.0*y; far=np.maximum(y-142,0); z=z+.17*far*ss(0,60,far)+.0*x
    z=z+.058*x*ss(200,60,y)+.45*look(n1,x,y,90)*ss(40,60,y)+ss(150,260,y)*(9*look(n1,x+40,y,520)+2.2*look(n2,x,y,420))
    return z+.05*look(n2,x,y,40)
# --- lane
lk=np.array([[7.5,36],[3.6,46],[1.2,54],[-.2,62],[-.6,70],[-2.2,79],[-5.2,88],[-7.8,96],[-8.6,106],[-7.4,117],[-3.5,127],[-1.,140],[3,155]],float)
tt=np.linspace(0,len(lk)-1,400); from scipy.interpolate import CubicSpline; lane=CubicSpline(np.arange(len(lk)),lk)(tt); lz=base(lane[:,0],lane[:,1]); lz=cv2.GaussianBlur(lz.reshape(-1,1),(1,31),8).ravel(); ltree=cKDTree(lane)
HS=[ # x0,y,yaw,w,d,eaves,rise, wall, roof, kind, cols
 dict(x=-27.5,y=61,yaw=7,w=9,d=6.5,e=4.9,wall='stoneB',roof='slate',cols=3),
 dict(x=-15.2,y=60,yaw=0,w=9.6,d=6.8,e=5.0,wall='stoneA',roof='slate',cols=3,door=1,id='A1'),
 dict(x=4.6,y=61.5,yaw=0,w=9.2,d=6.6,e=4.8,wall='white',roof='slate2',cols=3,door=1,id='A2'),
 dict(x=17.6,y=58.5,yaw=-9,w=6.6,d=9,e=4.7,wall='ochre',roof='tile',cols=2,gable=1),
 dict(x=-32,y=80,yaw=10,w=8.5,d=6.4,e=4.7,wall='cream',roof='tile',cols=3,door=0),
 dict(x=-19.4,y=78.5,yaw=0,w=6.6,d=8.5,e=4.9,wall='stoneC',roof='slate',cols=2,gable=1,id='B2'),
 dict(x=2.6,y=79,yaw=0,w=8.4,d=6.5,e=4.9,wall='stoneB',roof='tile2',cols=3,door=2,id='B3'),
 dict(x=11.4,y=79.6,yaw=0,w=7.4,d=6.2,e=5.3,wall='pink',roof='slate',cols=2,door=0,id='B4'),
 dict(x=23.0,y=80,yaw=-12,w=8.2,d=6.5,e=4.7,wall='white',roof='slate2',cols=3,door=1),
 dict(x=-38,y=97,yaw=6,w=8.6,d=6.6,e=4.8,wall='stoneA',roof='slate2',cols=3,door=1),
 dict(x=-27.6,y=98,yaw=0,w=8.2,d=6.6,e=4.8,wall='blue',roof='slate',cols=3,door=1,id='C2'),
 dict(x=-17.6,y=97,yaw=-14,w=7.0,d=6.2,e=4.6,wall='stoneB',roof='tile',cols=2,door=0),
 dict(x=16.2,y=99,yaw=0,w=8.2,d=6.4,e=4.9,wall='cream',roof='tile',cols=3,door=1,id='C4'),
 dict(x=27.5,y=97,yaw=-6,w=6.4,d=8,e=4.8,wall='stoneC',roof='slate',cols=2,gable=1),
 dict(x=-44,y=116,yaw=5,w=9,d=6.5,e=4.6,wall='stoneC',roof='slate',cols=3),
 dict(x=-31.5,y=117,yaw=0,w=8,d=6.4,e=4.8,wall='white',roof='tile2',cols=3,door=1,id='D2'),
 dict(x=-20.6,y=118,yaw=9,w=8,d=6.4,e=4.6,wall='stoneA',roof='slate',cols=3,door=0),
 dict(x=2.5,y=118,yaw=0,w=8.6,d=6.4,e=4.8,wall='stoneB',roof='slate2',cols=3,door=1,id='D4'),
 dict(x=14.5,y=117,yaw=-8,w=7.6,d=6.2,e=4.7,wall='ochre',roof='slate',cols=2,door=0),
 dict(x=26,y=118,yaw=0,w=8.4,d=6.4,e=4.7,wall='stoneA',roof='tile',cols=3,door=1,id='D6'),
 dict(x=37,y=112,yaw=-15,w=7.6,d=6.2,e=4.6,wall='white',roof='slate',cols=2,door=1),
 dict(x=-26,y=137,yaw=4,w=9.6,d=6.6,e=4.8,wall='white',roof='slate',cols=4,door=1),
 dict(x=-14,y=139,yaw=12,w=7,d=6.2,e=4.2,wall='stoneC',roof='slate2',cols=2,door=0),
 dict(x=8.5,y=138,yaw=-5,w=9,d=6.6,e=4.6,wall='stoneB',roof='tile',cols=3,door=1),
 dict(x=31,y=139,yaw=-3,w=11,d=7,e=4.4,wall='stoneA',roof='slate',cols=3,door=1),]
CH=dict(x=-5.2,y=96.5,yaw=0,w=16.2,d=6.6)
FP=[]
for h in HS+[CH]:
    fr=Fr((h['x'],h['y'],0),h['yaw']); c=fr([h['w']/2,0,0]); c2=fr([h['w']/2,h['d'],0]); h['z']=float(base(np.array([c[0]]),np.array([c[1]]))[0])*.62+float(base(np.array([c2[0]]),np.array([c2[1]]))[0])*.38; FP.append((fr,h['w'],h['d'],h['z']))
def land(x,y):
    sp=np.shape(x); x=np.asarray(x,float).ravel(); y=np.asarray(y,float).ravel(); z=base(x,y)
    for fr,w,d,hz in FP:
        m=(np.abs(x-fr.o[0])<26)&(np.abs(y-fr.o[1])<26)
        if not m.any(): continue
        p=(np.stack([x[m],y[m],0*x[m]],1)-[fr.o[0],fr.o[1],0])@fr.A.T; ds=np.hypot(np.maximum(np.maximum(-p[:,0],p[:,0]-w),0),np.maximum(np.maximum(-p[:,1]-1.2,p[:,1]-d-.3),0)); k=ss(3.0,.2,ds); z[m]=z[m]*(1-k)+(hz-.05)*k
    m=(y<160)&(np.abs(x)<22); dl,il=ltree.query(np.stack([x[m],y[m]],1)); k=ss(4.2,1.7,dl); z[m]=z[m]*(1-k)+(lz[il]-.10)*k
    return z.reshape(sp)
def ld(x,y): return float(land(np.array([x]),np.array([y]))[0])
# --- terrain with painted vertex colours
NR,NC=(1150,900) if W>1500 else (800,560); y=26*(620/26)**np.linspace(0,1,NR); gx=y[:,None]*np.linspace(-.47,.47,NC); gy=np.repeat(y[:,None],NC,1); gz=land(gx,gy)
wood=ss(-.15,.30,look(n1,gx,gy,330)+.25*look(n2,gx,gy,160)+1.5*ss(235,330,gy)+.5*ss(60,140,np.abs(gx+8))*ss(160,210,gy)-.72+.9*ss(-60,-110,gx)*ss(180,230,gy))*ss(158,176,gy)
fx=gx+9*np.sin(gy/37.)+.28*gy; fy=gy+8*np.sin(gx/29.)+.12*gx; FW,FH=46.,38.; ci=np.floor(fx/FW).astype(int); cj=np.floor((fy+FH*.5*(ci%2))/FH).astype(int); fid=(ci*7+cj*13)%11
pal=np.array([[.37,.42,.19],[.42,.46,.22],[.50,.48,.25],[.33,.41,.15],[.46,.50,.22],[.39,.44,.18],[.55,.51,.29],[.35,.40,.17],[.44,.46,.21],[.38,.45,.17],[.48,.49,.24]])
fc=pal[fid%11]; gr=pal[0]*(1-ss(140,165,gy))[...,None]+fc*ss(140,165,gy)[...,None]
dt=.11*look(n2,gx,gy,36)+.10*look(n3,gx,gy,20)+.09*look(n3,gx,gy,75)+.05*look(n2,gx,gy,190)+.06*r.standard_normal(gx.shape)
gr=gr*(1+dt)[...,None]; dry=ss(.3,1.6,look(n2,gx+9,gy,62))[...,None]*.5; gr=gr*(1-dry)+dry*np.array([.50,.46,.27]); soil=ss(1.3,2.1,look(n2,gx,gy+17,28))[...,None]*.6*ss(150,120,gy)[...,None]; gr=gr*(1-soil)+soil*np.array([.33,.28,.21])
gr=gr*(1-wood[...,None])+wood[...,None]*np.array([.17,.19,.09]); gl=(np.clip(gr,.02,1)**2.2).astype(np.float32)
g=M(); g.grid(np.stack([gx,gy,gz],-1),np.stack([gx,gy],-1)/7.); me=g.mesh('land',bump(two({'type':'diffuse','reflectance':{'type':'mesh_attribute','name':'vertex_color'}}),nz(1024,.7,31,12),.03),smooth=True); me.add_attribute('vertex_color',3,gl.reshape(-1)); sh['land']=me
# --- lane surface, kerbs
Tn=np.gradient(lane,axis=0); Tn/=np.linalg.norm(Tn,axis=1,keepdims=True); Nn=np.stack([Tn[:,1],-Tn[:,0]],1); s=np.concatenate([[0],np.cumsum(np.linalg.norm(np.diff(lane,axis=0),axis=1))]); cc=np.linspace(-1.65,1.65,23); P=np.zeros((400,23,3)); P[...,:2]=lane[:,None]+Nn[:,None]*cc[None,:,None]; P[...,2]=lz[:,None]+.03-.035*(cc/1.6)**2+.008*look(n3,P[...,0],P[...,1],9); UV=np.stack([cc[None]+0*s[:,None],s[:,None]+0*cc[None]],-1)/8.
la,lh,_,_=rubble(8,8,128,77,(.40,.385,.36),(.31,.29,.26),(.10,.16),(.10,.24),.10,.03,.016,.02); la=la*(1-.25*ss(.2,1.8,nz(1024,1.4,41,2)))[...,None]; K['lane'].grid(P,UV)
for sd in(-1,1):
    for i in range(0,396,3):
        a,b=lane[i]+Nn[i]*1.68*sd,lane[min(i+3,399)]+Nn[min(i+3,399)]*1.68*sd; n=Nn[i]*.085*sd; j=r.normal(0,.012,2); za,zb=lz[i]+.10+j[0],lz[min(i+3,399)]+.10+j[0]
        v=np.array([[*(a-n),za],[*(b-n),zb],[*(b+n),zb],[*(a+n),za],[*(a-n),za-.3],[*(b-n),zb-.3]]); v[:,:2]+=Tn[i]*0; o=r.random(2)*9; K['dress'].add(v,v[:,[1,2]]*.5+o,[[0,1,2],[0,2,3],[4,5,1],[4,1,0]])
# --- wall textures
TN=dict(stoneA=(.50,.45,.37),stoneB=(.44,.41,.37),stoneC=(.52,.46,.36),chapel=(.58,.53,.43),white=(.83,.82,.78),cream=(.82,.77,.63),ochre=(.76,.61,.38),pink=(.78,.63,.56),blue=(.64,.70,.73))
def walltex(kind,Wm,Hm,ppm,seed,Ht,ops):
    rr=np.random.default_rng(seed); b=np.array(TN[kind])*(1+rr.normal(0,.035)+rr.normal(0,.006,3))
    if kind.startswith('stone') or kind=='chapel':
        if kind=='chapel': a,h,u,z=rubble(Wm,Hm,ppm,seed,b,(.54,.50,.43),(.22,.34),(.35,.75),.075,.03,.012,.006)
        else: a,h,u,z=rubble(Wm,Hm,ppm,seed,b,np.array((.50,.47,.41))*rr.uniform(.8,1.1),(.12,.26),(.18,.5),.15,.06,.016,.022)
        return weather(a,u,z-3,ppm,seed,Ht,.30,.20,ops),h,.016
    a,h,u,z=plaster(Wm,Hm,ppm,seed,b); return weather(a,u,z-3,ppm,seed,Ht,.28,.26,ops,green=.35),h,.006
DC=['dgreen','dred','dblue','dbrown']; hid=0
def house(h):
    if h is HS[0]: print('houses start',time.time()-T0,flush=True)
    global hid; hid+=1; seed=100+hid; rg=np.random.default_rng(seed); fr=Fr((h['x'],h['y'],h['z']),h['yaw']); w,d,e=h['w'],h['d'],h['e']; gab=h.get('gable'); near=h['y']<70; ppm=90 if near else 60; rise=(w if gab else d)/2*rg.uniform(.84,.98) if not gab else w/2*1.0
    Ls=Kit(); st=h['wall'].startswith('stone'); wn='wall%d'%hid; cols=h['cols']; ww=.98 if rg.random()<.7 else 1.12; wh=1.28; ops=[];dops=[]; xs=[w*(i+.5)/cols+(0 if cols<3 else (.0)) for i in range(cols)]; dr=h.get('door')
    for i,x in enumerate(xs):
        if dr==i: dops.append((x-.55,x+.55,0.,2.08)) if not(cols==3 and i!=1) else dops.append((x-.95,x+.15,0.,2.08))
        else: ops.append((x-ww/2,x+ww/2,.95,.95+wh+.08))
        if not(dr==i and rg.random()<.12): ops.append((x-ww/2,x+ww/2,e-1.72,e-.50))
    if gab: ops.append((w/2-.42,w/2+.42,e+.55,e+1.5))
    allo=ops+dops; tri=e+rise if gab else None
    # openings above the eaves must sit in the triangle: cut by a small raised wall
    F=Kit(); UVm=(w+2*d+2.,3+e+rise+.5)
    def fac(m,u0,u1,z0,z1,o,tri,off):
        mm=M(); facade(mm,u0,u1,z0,z1,o,.20,np.array([1.,1.]),tri); 
        for v,t,f,b in zip(mm.v,mm.t,mm.f,np.cumsum([0]+[len(v) for v in mm.v])[:-1]): m.add(v,np.stack([(t[:,0]+off)/UVm[0],(t[:,1]+3)/UVm[1]],1),f-b)
    fac(F[wn],0,w,-3,e,[o for o in allo if o[3]<=e],tri,0)
    frm='white' if rg.random()<.8 else 'sage'; nb=int(rg.integers(3)); style=[(2,2,True),(2,3,False),(3,4,True)][nb]; surr=None if st else [None,'dress','trimg'][int(rg.integers(3))]
    for o in ops:
        if o[3]>e:   # gable light: shallow frame on the wall face
            F['glass'].add([[o[0],-.012,o[2]],[o[1],-.012,o[2]],[o[1],-.012,o[3]],[o[0],-.012,o[3]]],np.array([[.02,.02],[.1,.02],[.1,.4],[.02,.4]]),[[0,1,2],[0,2,3]])
            for lo,hi in(((o[0]-.07,-.05,o[2]-.07),(o[0],0,o[3]+.07)),((o[1],-.05,o[2]-.07),(o[1]+.07,0,o[3]+.07)),((o[0],-.05,o[3]),(o[1],0,o[3]+.07)),((o[0]-.1,-.09,o[2]-.12),(o[1]+.1,0,o[2])),((w/2-.02,-.04,o[2]),(w/2+.02,0,o[3]))): F[frm].box(lo,hi,1.2)
        else: window(F,*o,rg,nx=style[0],nz_=style[1],sash=style[2],frame=frm,lint='stone' if st else None,surr=surr)
    for o in dops:
        door(F,*o,rg,DC[int(rg.integers(4))])
        if st: F['dress'].box((o[0]-.2,-.012,o[3]),(o[1]+.2,.14,o[3]+.24),1.9,rnd=2)
        if rg.random()<.45:      # little pent porch on brackets
            for s0,s1 in((0,1),): tiles(F['roof_'+h['roof']],(o[0]-.45,-.85,o[3]+.28),(1,0,0),np.array([0,.85,.42])/math.hypot(.85,.42),o[1]-o[0]+.9,math.hypot(.85,.42),.25,.2,rg)
            F['white'].box((o[0]-.45,-.86,o[3]+.16),(o[1]+.45,-.80,o[3]+.27),1.2)
            for x in(o[0]-.32,o[1]+.26): F['white'].cyl((x,-.04,o[3]-.45),(x,-.74,o[3]+.2),.035,n=6); 
    Ls.put(F,Fr())
    for fr2,wd,off in((Fr((w,0,0),-90),d,w+.5),(Fr((0,d,0),90),d,w+d+1.)):
        S=Kit(); so=[(d*.5-.42,d*.5+.42,e-1.7,e-.6)] if (rg.random()<.6) else []
        fac(S[wn],0,d,-3,e,so,None if gab else e+rise,off)
        for o in so: window(S,*o,rg,nx=2,nz_=2,frame=frm,lint='stone' if st else None)
        Ls.put(S,fr2)
    B=M(); B.quad([0,d,-3],[w,d,-3],[w,d,e],[0,d,e]); Ls['dark'].add(np.concatenate(B.v),np.concatenate(B.t),B.f[0])
    # roof
    rk='roof_'+h['roof']; sl=h['roof'].startswith('slate'); tw,th=(.27,.19) if sl else (.24,.26); ov,vg=.30,.16; lift=.016 if sl else .035; sag=0 if h.get('id') else rg.uniform(.02,.10)
    R=Kit(); W_,D_=(d,w) if gab else (w,d); sp=rise/(D_/2); cs=1/math.hypot(1,sp); LS=(D_/2+ov)/cs
    for sgn in(0,1):
        if sgn==0: tiles(R[rk],(-vg,-ov,e-ov*sp+.10),(1,0,0),(0,cs,sp*cs),W_+2*vg,LS,tw,th,rg,lift,sag=sag)
        else: tiles(R[rk],(W_+vg,D_+ov,e-ov*sp+.10),(-1,0,0),(0,-cs,sp*cs),W_+2*vg,LS,tw,th,rg,lift,sag=sag)
        ya,yb=((-ov,D_/2),(D_+ov,D_/2))[sgn]; R['dark'].quad([-vg+.02,ya,e-ov*sp+.02],[W_+vg-.02,ya,e-ov*sp+.02],[W_+vg-.02,yb,e+rise+.02],[-vg+.02,yb,e+rise+.02])
    x=-vg
    while x<W_+vg-.1:
        x2=min(x+.42,W_+vg); zz=lambda q: e+rise+.11-sag*math.sin(math.pi*min(max((q+vg)/(W_+2*vg),0),1)); R['ridge_'+('s' if sl else 't')].cyl((x,D_/2,zz(x)),(x2-.012,D_/2,zz(x2)),.095,.092,12,1.,rnd=int(rg.integers(99))); x=x2
    fz=e-ov*sp-.10; R['fas%d'%(hid%3)].box((-vg,-ov+.0,fz),(W_+vg,-ov+.03,fz+.17),1.3,'x'); R['white'].box((-vg,-ov+.03,fz+.02),(W_+vg,.02,fz+.05),1.3,'x')
    R['iron'].cyl((-vg-.03,-ov-.05,fz+.165),(W_+vg+.03,-ov-.05,fz+.150),.052,n=12)
    for xx in(-vg,W_+vg):     # bargeboards / verge
        for ya,yb in((-ov,D_/2),(D_+ov,D_/2)):
            y1,z1=ya,e-ov*sp-.06; v=[[xx,y1,z1],[xx,yb,e+rise-.06],[xx,yb,e+rise+.10],[xx,y1,z1+.16]]; R['fas%d'%(hid%3)].add(v,[[0,0],[2,0],[2,.1],[0,.1]],[[0,1,2],[0,2,3]])
    rf=Fr((0,0,0),0) if not gab else Fr((w,0,0),-90)
    if not gab:
        px=[.18,w-.18][int(rg.integers(2))]; R['iron'].cyl((px,-.07,.1),(px,-.07,fz-.15),.042,n=10); R['iron'].cyl((px,-.07,fz-.17),(px,-ov-.04,fz+.12),.042,n=8)
    # chimneys on the ridge
    for cx in ([.55,W_-.55] if rg.random()<.6 else [[.55],[W_-.55],[W_*.5]][int(rg.integers(3))]):
        cw,cd,ht=rg.uniform(.75,1.15),.58,rg.uniform(.9,1.45); zt=e+rise+ht; ck='chimS' if st or rg.random()<.4 else 'chimB'; R[ck].box((cx-cw/2,D_/2-cd/2,e+rise-.7),(cx+cw/2,D_/2+cd/2,zt),3.,rnd=int(rg.integers(99))); R[ck].box((cx-cw/2-.06,D_/2-cd/2-.06,zt-.24),(cx+cw/2+.06,D_/2+cd/2+.06,zt-.12),3.); R['dress'].box((cx-cw/2-.08,D_/2-cd/2-.08,zt),(cx+cw/2+.08,D_/2+cd/2+.08,zt+.09),1.9,rnd=3)
        for q in range(2 if cw<.95 else 3): xx=cx-cw/2+.2+q*(cw-.4)/(1 if cw<.95 else 2); hp=rg.uniform(.35,.6); R['pot'].cyl((xx,D_/2,zt+.05),(xx,D_/2,zt+.05+hp),.13,.105,14,1.); R['pot'].cyl((xx,D_/2,zt+.02+hp),(xx,D_/2,zt+.08+hp),.135,.135,14,1.)
    Ls.put(R,rf)
    if st:
        for xx in(0,w): 
            for q in range(int((e+.3)/.3)):
                if q*.3+.29>e: break
                l=.42 if q%2 else .26; Ls['dress'].box((xx-(.012 if xx==0 else l),-.014,q*.3+.008),(xx+(l if xx==0 else .012),.02,q*.3+.292),1.9,rnd=q+hid)
    K.put(Ls,fr); K['dress'].box((h['x'],0,0),(h['x'],0,0)) if 0 else None
    a,hh,bs=walltex(h['wall'],UVm[0],UVm[1],ppm,seed,e+rise*.1,[(o[0],o[1],o[2]) for o in ops]); sh[wn+'_b']=None; BS[wn]=bump(two(diffuse(a)),hh,bs)
    if h.get('id'):
        o2=[o for o in ops if o[2]>2 and o[3]<=e]; I=h['id']
        if not gab: LN.append((I+' eaves, fascia lower edge','horizontal-facing',fr([-vg,-ov,fz]),fr([w+vg,-ov,fz])))
        for o,c in((o2[0],0),(o2[-1],1)): LN.append((f'{I} upper window {"left" if c==0 else "right"} jamb','vertical',fr([o[c],0,o[2]]),fr([o[c],0,o[3]])))
        LN.append((I+' upper window sill, top front edge','horizontal-facing',fr([o2[0][0]-.1,-.10,o2[0][2]]),fr([o2[0][1]+.1,-.10,o2[0][2]])))
        if dops: o=dops[0]; LN.append((I+' door jamb','vertical',fr([o[0],0,.1]),fr([o[0],0,o[3]])))
        LN.append((I+' house corner','vertical',fr([0,-.014 if st else 0,.6]),fr([0,-.014 if st else 0,e-.1])))
BS={}
for h in HS: house(h)
# --- chapel: square tower + nave
def chapel():
    fr=Fr((CH['x'],CH['y'],CH['z'])); C=Kit(); tw,th=4.7,14.6; rg=np.random.default_rng(5)
    ops=[(1.75,2.95,0,2.9),(1.95,2.75,4.3,6.4),(1.35,2.2,9.9,12.3),(2.5,3.35,9.9,12.3)]; UVm=np.array([34.,18.5])
    def fac(m,u0,u1,z0,z1,o,tri,off,arch):
        mm=M(); facade(mm,u0,u1,z0,z1,o,.28,np.array([1.,1.]),tri,arch)
        for v,t,f,b in zip(mm.v,mm.t,mm.f,np.cumsum([0]+[len(v) for v in mm.v])[:-1]): m.add(v,np.stack([(t[:,0]+off)/UVm[0],(t[:,1]+3)/UVm[1]],1),f-b)
    T_=Kit(); fac(T_['chapel'],0,tw,-3,th,ops,None,0,(0,1,2,3))
    for i,o in enumerate(ops):
        R=(o[1]-o[0])/2; ring(T_['dress'],(o[0]+o[1])/2,o[3]-R,R-.01,R+.2,-.03,.2,11,rnd=rg,tile=1.9)
        if i>1:
            for q in range(9): z=o[2]+.1+q*.25; T_['dbrown'].box((o[0],.10,z),(o[1],.30,z+.05),1.,'x'); 
            T_['dark'].quad([o[0],.4,o[2]],[o[1],.4,o[2]],[o[1],.4,o[3]],[o[0],.4,o[3]]); T_['dress'].box((o[0]-.12,-.10,o[2]-.14),(o[1]+.12,.2,o[2]),1.9)
        elif i==1: window(T_,*o,rg,dep=.2,nx=2,nz_=3,frame='lead',arch=True,sash=False,lint=None)
        else:
            T_['dbrown'].box((o[0],.16,0),(o[1],.22,2.95),1.1,'z'); T_['dark'].box((2.33,.14,0),(2.37,.17,2.9))
            for z in(.6,1.9): T_['iron'].box((o[0]+.05,.13,z),(2.30,.16,z+.06)); T_['iron'].box((2.40,.13,z),(o[1]-.05,.16,z+.06))
    C.put(T_,Fr())
    for f2,off in((Fr((tw,0,0),-90),5.2),(Fr((0,tw,0),90),10.4),(Fr((tw,tw,0),180),15.6)):
        S=Kit(); so=[(1.35,2.2,9.9,12.3),(2.5,3.35,9.9,12.3)]; fac(S['chapel'],0,tw,-3,th,so,None,off,(0,1)); 
        for o in so:
            ring(S['dress'],(o[0]+o[1])/2,o[3]-.425,.415,.62,-.03,.2,11,rnd=rg,tile=1.9); S['dark'].quad([o[0],.4,o[2]],[o[1],.4,o[2]],[o[1],.4,o[3]],[o[0],.4,o[3]])
            for q in range(9): z=o[2]+.1+q*.25; S['dbrown'].box((o[0],.10,z),(o[1],.30,z+.05),1.,'x')
        C.put(S,f2)
    for z,p,hh in((0,.14,.55),(3.6,.07,.2),(8.8,.09,.24),(13.1,.12,.26)): C['dress'].box((-p,-p,z),(tw+p,tw+p,z+hh),1.9,rnd=int(z*9))
    for q in range(44):          # quoins on the two front corners
        z=q*.3+.6
        if z>12.8 or 8.4<z<9.1 or 3.2<z<3.9: continue
        l=.55 if q%2 else .34
        for xx in(0,tw): C['dress'].box((xx-(.015 if xx==0 else l),-.015,z+.006),(xx+(l if xx==0 else .015),.34 if q%2 else .55,z+.294),1.9,rnd=q+int(xx*3))
    for k in range(4):           # battlements
        f2=[Fr(),Fr((tw,0,0),-90),Fr((tw,tw,0),180),Fr((0,tw,0),90)][k]; S=Kit(); S['chapel2'].box((-.06,-.06,13.3),(tw+.06,.26,14.1),3.); 
        for q in range(4): x=-.06+q*(tw+.12-.75)/3; S['chapel2'].box((x,-.06,14.1),(x+.75,.26,14.75),3.,rnd=q); S['dress'].box((x-.05,-.12,14.75),(x+.80,.32,14.86),1.9,rnd=q)
        for q in range(3): x=-.06+.75+q*(tw+.12-.75)/3; S['dress'].box((x-.0,-.12,14.1),(x+(tw+.12-.75)/3-.75,.32,14.18),1.9,rnd=q)
        C.put(S,f2)
    cx=tw/2; 
    for k in range(4): 
        f2=[Fr(),Fr((tw,0,0),-90),Fr((tw,tw,0),180),Fr((0,tw,0),90)][k]; S=Kit(); S['roof_slate'].add([[.2,.2,14.1],[tw-.2,.2,14.1],[cx,cx,16.9]],[[0,0],[.2,0],[.1,.2]],[[0,1,2]]); C.put(S,f2)
    C['iron'].cyl((cx,cx,16.7),(cx,cx,18.4),.03,n=8); C['iron'].box((cx-.45,cx-.015,17.7),(cx+.45,cx+.015,17.76)); C['gold'].box((cx-.5,cx-.02,17.95),(cx+.35,cx+.02,18.25))
    # nave
    N=Kit(); L,D,e,rise=11.3,6.2,4.6,4.1; nops=[(1.4+i*2.55,2.35+i*2.55,1.3,3.9) for i in range(4)]; fac(N['chapel'],0,L,-3,e,nops,None,20.8,(0,1,2,3))
    for o in nops: ring(N['dress'],(o[0]+o[1])/2,o[3]-.475,.465,.66,-.03,.2,11,rnd=rg,tile=1.9); window(N,*o,rg,dep=.2,nx=2,nz_=4,frame='lead',arch=True,sash=False,lint=None)
    for x in(.0,2.75,5.3,7.85,L-.55): 
        N['dress'].box((x,-.6,-3),(x+.5,0,2.4),1.9,rnd=int(x*9)); N['dress'].add([[x,-.6,2.4],[x+.5,-.6,2.4],[x+.5,0,3.3],[x,0,3.3],[x,0,2.4],[x+.5,0,2.4]],np.array([[0,0],[.3,0],[.3,.4],[0,.4],[0,.1],[.3,.1]]),[[0,1,2],[0,2,3],[0,3,4],[1,5,2]])
    S=Kit(); fac(S['chapel'],0,D,-3,e,[],e+rise,15,()); N.put(S,Fr((L,0,0),-90))
    sp=rise/(D/2); cs=1/math.hypot(1,sp); tiles(N['roof_slate'],(0,-.3,e-.3*sp+.1),(1,0,0),(0,cs,sp*cs),L+.15,(D/2+.3)/cs,.30,.22,rg,.016); tiles(N['roof_slate'],(L+.15,D+.3,e-.3*sp+.1),(-1,0,0),(0,-cs,sp*cs),L+.15,(D/2+.3)/cs,.30,.22,rg,.016)
    N['dark'].quad([0,-.28,e-.3*sp],[L+.1,-.28,e-.3*sp],[L+.1,D/2,e+rise],[0,D/2,e+rise]); N['dark'].quad([0,D+.28,e-.3*sp],[L+.1,D+.28,e-.3*sp],[L+.1,D/2,e+rise],[0,D/2,e+rise]); N['ridge_s'].cyl((0,D/2,e+rise+.1),(L+.15,D/2,e+rise+.1),.1); N['dress'].box((0,-.32,e-.3*sp-.12),(L+.15,-.26,e-.3*sp+.08),1.9); N['iron'].cyl((0,-.37,e-.3*sp+.08),(L+.15,-.37,e-.3*sp+.07),.055,n=10)
    N['dress'].box((L-.05,D/2-.35,e+rise-.3),(L+.3,D/2+.35,e+rise+.5),1.9); N['dress'].box((L+.02,D/2-.08,e+rise+.5),(L+.18,D/2+.08,e+rise+1.5),1.9); N['dress'].box((L+.04,D/2-.35,e+rise+1.0),(L+.16,D/2+.35,e+rise+1.16),1.9)
    C.put(N,Fr((tw,.25,0))); K.put(C,fr)
    a,hh,bs=walltex('chapel',34.,18.5,64,55,13,[(o[0],o[1],o[2]) for o in ops]); BS['chapel']=bump(two(diffuse(a)),hh,.014); K['chapel']; 
    P=-.015
    LN.extend([('chapel tower left corner','vertical',fr([P,P,4.0]),fr([P,P,8.6])),('chapel tower right corner','vertical',fr([tw-P,P,4.0]),fr([tw-P,P,8.6])),('chapel tower left corner, belfry stage','vertical',fr([P,P,9.2]),fr([P,P,12.9])),('chapel tower right corner, belfry stage','vertical',fr([tw-P,P,9.2]),fr([tw-P,P,12.9])),
     ('chapel string course below the belfry, lower edge','horizontal-facing',fr([-.09,-.09,8.8]),fr([tw+.09,-.09,8.8])),('chapel parapet string, lower edge','horizontal-facing',fr([-.12,-.12,13.1]),fr([tw+.12,-.12,13.1])),('chapel nave eaves board, lower edge','horizontal-facing',fr([tw,.25-.32,e-.3*sp-.12]),fr([tw+L+.15,.25-.32,e-.3*sp-.12])),
     ('chapel tower right string, receding','horizontal-receding',fr([tw+.09,-.09,8.8]),fr([tw+.09,tw+.09,8.8])),('chapel parapet right, receding','horizontal-receding',fr([tw+.12,-.12,13.1]),fr([tw+.12,tw+.12,13.1]))])
chapel()
# --- garden walls: straight tops that follow the slope
GW=[]
def gwall(x0,y0,x1,y1,hgt=1.15,id=None,key='gw',dh=0.):
    L=math.hypot(x1-x0,y1-y0); n=max(2,int(L/1.0)); z0,z1=ld(x0,y0)+hgt,ld(x1,y1)+hgt+dh; t=np.linspace(0,1,n+1); X=x0+(x1-x0)*t; Y=y0+(y1-y0)*t; ux,uy=(x1-x0)/L,(y1-y0)/L; nx,ny=uy,-ux; gl_=land(X,Y)
    top=z0+(z1-z0)*t if id else np.maximum(gl_+hgt*(.97+.03*np.sin(X*3)),gl_+.8); o=r.random(2)*9
    for sd in(-1,1):
        P=np.zeros((2,n+1,3)); P[0,:,0]=P[1,:,0]=X+nx*.22*sd; P[0,:,1]=P[1,:,1]=Y+ny*.22*sd; P[0,:,2]=gl_-.8; P[1,:,2]=top; K[key].grid(P,np.stack([np.stack([t*L,t*0+0],-1),np.stack([t*L,(top-gl_+.8)],-1)])/6.+o)
    s=0.
    while s<L:
        b=min(s+r.uniform(.35,.75),L); j=0 if id else r.normal(0,.02); q=lambda S_: np.interp(S_/L,t,top)+j
        A=lambda S_,k,dz:[x0+ux*S_+nx*.27*k,y0+uy*S_+ny*.27*k,q(S_)+dz]; a1,b1=s+.006,b-.006
        V=np.array([A(a1,1,-.02),A(b1,1,-.02),A(b1,1,.09),A(a1,1,.09),A(b1,-1,.09),A(a1,-1,.09),A(b1,-1,-.02),A(a1,-1,-.02)]); K['cope'].add(V,np.array([[0,0],[b1-a1,0],[b1-a1,.11],[0,.11],[b1-a1,.6],[0,.6],[b1-a1,.7],[0,.7]])*.5+r.random(2)*9,[[0,1,2],[0,2,3],[3,2,4],[3,4,5],[5,4,6],[5,6,7],[0,3,5],[1,4,2]]); s=b
    GW.append((x0,y0,x1,y1))
    if id: k=1 if ny<0 else -1; LN.append((id+', coping top front edge','sloping',[x0+nx*.27*k,y0+ny*.27*k,z0+.09],[x1+nx*.27*k,y1+ny*.27*k,z1+.09]))
gwall(-20,55.2,-2.2,55.6,1.1,'garden wall left'); gwall(3.2,56.6,15.6,57.0,1.05,'garden wall right'); gwall(-30,73.2,-17,73.0,1.1,'wall above the first row, left'); gwall(4.4,73.6,20.5,73.2,1.1,'wall above the first row, right'); gwall(-40,92,-21,91.5,1.1,'churchyard side wall left'); gwall(-4.2,92.0,15,92.2,1.2,'churchyard wall'); gwall(-34,111.5,-13,111.8,1.1,'upper wall left'); gwall(2,112.2,24,112.0,1.1,'upper wall right')
gwall(-13.5,57.4,-4.6,57.5,.45,'terrace edge below house A1',dh=.52); gwall(-49,168,-26,169,1.6,'hill field wall left'); gwall(-22,166,-8.5,166.5,1.6,'hill field wall middle'); gwall(12,163,33,162,1.6,'hill field wall right'); gwall(-2.2,55.6,-2.6,68,1.1); gwall(3.2,56.6,1.9,61.3,1.05); gwall(1.9,68.5,4.4,73.6,1.1); gwall(-3.8,70,-17,73,1.1); gwall(-5,78,-9.2,89,1.1); gwall(-9.2,89,-10.9,100,1.1); gwall(-4.2,92,-6,97,1.1); gwall(-45,147,-4,148,1.2); gwall(4,150,60,147,1.2); gwall(-11,103,-9.6,118,1.1); gwall(15,92.2,24,91,1.1); gwall(16,57,17,52,1.); gwall(-20,55.2,-22,60,1.)
for q in range(5): pass
i0,i1=60,84; # a straight-ish stretch of kerb
# --- materials
def mt(k):
    if k in BS: return BS[k]
    if k=='glass': return {'type':'plastic','diffuse_reflectance':tex(glassatlas()),'int_ior':1.62,'nonlinear':False}
    if k=='roof_slate': return two(princ(palette(1024,(.38,.385,.40),61,.09,.03,lich=.4,moss=.45),.55,.35))
    if k=='roof_slate2': return two(princ(palette(1024,(.41,.40,.39),63,.12,.06,lich=.5,moss=.6),.6,.3))
    if k=='roof_tile': return two(diffuse(palette(1024,(.49,.34,.26),65,.14,.07,lich=.4,moss=.5)))
    if k=='roof_tile2': return two(diffuse(palette(1024,(.46,.36,.29),67,.15,.07,lich=.6,moss=.75)))
    if k in('gw','chimS','chapel2'):
        b={'gw':(.43,.40,.35),'chimS':(.46,.42,.36),'chapel2':(.56,.51,.42)}[k]; s_=6. if k=='gw' else 3.; a,h,u,z=rubble(s_,s_,170,{'gw':201,'chimS':203,'chapel2':205}[k],b,np.array(b)*(.62 if k=='gw' else 1.05),(.10,.2),(.18,.45),.16,.06,.018,.02); mo=ss(.7,1.8,nz(1024,1.2,43,4)[:a.shape[0],:a.shape[1]])[...,None]*.5 if a.shape[0]<=1024 else 0; return bump(two(diffuse(a*(1-mo)+mo*np.array([.33,.34,.20]))),h,.015)
    if k=='chimB': a,h=bricks(1024,13,40,91,(.52,.33,.25)); return bump(two(diffuse(a)),h,.01)
    if k=='lane': return bump(two(diffuse(la)),lh,.012)
    if k in('dress','cope'): 
        st,sg=mottled(1024,(.60,.56,.48) if k=='dress' else (.50,.48,.42),11,.10,.9,lo=4); st=st*(1-.32*ss(.2,2.,nz(1024,1.5,14,2)))[...,None]; li=(ss(1.1,1.5,nz(1024,.9,44,20))*.5)[...,None]; st=st*(1-li)+li*np.array([.66,.65,.55]); return bump(two(diffuse(st)),sg,.004)
    P_=dict(white=(.80,.79,.75),sage=(.50,.55,.48),trimg=(.44,.46,.47),fas0=(.78,.77,.73),fas1=(.30,.30,.30),fas2=(.36,.27,.20),dgreen=(.14,.25,.20),dred=(.38,.13,.11),dblue=(.17,.25,.36),dbrown=(.27,.19,.13),pot=(.58,.37,.26),ridge_s=(.40,.39,.38),ridge_t=(.50,.33,.25),gold=(.75,.58,.2))
    if k in P_: t,g=planks(512,1,hash_(k),P_[k]); return two(diffuse(t))
    return two(diffuse({'dark':[.03,.028,.025],'iron':[.035,.036,.04],'lead':[.20,.20,.20]}[k]))
hash_=lambda k: sum(map(ord,k))
print('walls done',time.time()-T0,flush=True)
# --- vegetation
LT=[(.40,.49,.17),(.47,.54,.21),(.35,.45,.17),(.52,.53,.22)]; wd=two(diffuse([.13,.105,.08])); 
PR={}; ST={}
def protos(pre,specs):
    ids=[]
    for i,(hh,rad,n,size,bare,con,col) in enumerate(specs):
        ms=treeproto(300+i+hash_(pre),hh,rad,n,size,bare,conic=con,nb=26 if pre=='tn' else 14); gid=pre+str(i); PR[gid]=([(np.concatenate(m.v),np.concatenate(m.t),np.concatenate([f for f in m.f])) for m in ms],col); ids.append(gid)
    return ids
big=W>1500
near=protos('tn',[(8,3.1,42000,.085,.2,0,0),(6.2,2.5,34000,.075,.18,0,1),(9.5,3.3,48000,.085,.2,.2,2),(4.,1.8,22000,.065,.15,0,3),(7.2,2.9,36000,.08,.2,0,2)])
farp=protos('tf',[(9,3.8,1700,.34,.10,0,0),(10.5,3.9,1700,.34,.10,.1,2),(8,3.6,1600,.33,.08,0,1),(12,2.9,1500,.31,.05,.75,2),(9.5,4.2,1700,.35,.10,0,3)])
bush=protos('bu',[(1.7,1.15,2600,.085,.02,0,0),(1.4,1.2,2400,.08,.02,0,2),(2.1,1.3,2800,.09,.02,0,1)]); fbush=protos('bf',[(1.7,1.3,330,.21,.02,0,0),(1.4,1.3,300,.20,.02,0,2),(2.1,1.4,340,.22,.02,0,1)])
ni=0
def inst(g,x,y,sc,z=None,sz=None):
    global ni; ni+=1; z=ld(x,y) if z is None else z; ms,col=PR[g]; a=float(r.random()*6.283); R=np.array([[math.cos(a),math.sin(a),0],[-math.sin(a),math.cos(a),0],[0,0,1.]])*sc; R=R.astype(np.float32); o=np.array([x,y,z-.1],np.float32)
    for key,(v,t,f) in zip(('leaf%d'%col,'wood','core'),ms):
        if key=='wood' and g.startswith('bu'): continue
        ST.setdefault(key,M()).add(v@R+o,t,f)
def clear(x,y,mg=.8):
    for fr,w,d,hz in FP:
        p=fr.A@(np.array([x,y,0])-[fr.o[0],fr.o[1],0]); 
        if -mg<p[0]<w+mg and -mg-1.0<p[1]<d+mg: return False
    return ltree.query([x,y])[0]>2.4+mg*.6
for x,y,g,sc in((-4.6,63.5,1,1.),(15.9,66,0,1.),(-18.2,70.5,3,1.3),(22.5,70,2,1.05),(-8.6,82,0,1.1),(-12.,93,2,1.15),(12.4,91,3,1.2),(14.4,106.5,2,1.2),(-24.5,88,1,1.2),(-34,90,4,1.2),(20.8,90,4,1.),(-12.7,107,4,1.2),(-22.8,108,0,1.15),(23.5,108,0,1.2),(-2.4,109.5,1,1.2),(-9.5,129,2,1.2),(11.5,128,4,1.3),(22,132,0,1.35),(-33,130,0,1.3),(35,105,1,1.3),(1.0,131,3,1.5),(-40,108,2,1.25),(-26.5,70.5,4,1.15),(32,92,0,1.1),(40,125,2,1.3),(-18,128.5,1,1.3),(11.4,70.2,3,1.1)): 
    if clear(x,y,.3): inst(near[g],x,y,sc*r.uniform(.9,1.1))
for q in range(240):     # garden shrubs
    y_=52+92*r.random(); x_=(r.random()*2-1)*.40*y_
    if clear(x_,y_,1.1): inst(bush[int(r.integers(3))],x_,y_,r.uniform(.35,.95))
def hedge(x0,y0,x1,y1,sc=.8,step=.85,w=.2):
    L=math.hypot(x1-x0,y1-y0); n=int(L/step); xs=x0+(x1-x0)*np.linspace(0,1,n)+r.normal(0,w,n); ys=y0+(y1-y0)*np.linspace(0,1,n)+r.normal(0,w,n); zs=land(xs,ys)
    for x,y_,z in zip(xs,ys,zs): inst(bush[int(r.integers(3))],x,y_,sc*r.uniform(.8,1.25),z)
hedge(16.2,57.2,23,54,.62,.6,.1); hedge(-3.4,56.4,-3.7,66,.5,.6,.1); hedge(-13,72.2,-8,71,.7); hedge(21,74,30,73,.9); hedge(16,92,26,91,.9)
# field hedges on the hill (cell borders of the painted fields)
cand=np.stack([r.uniform(-150,150,60000),r.uniform(148,335,60000)],1); x_,y_=cand.T; fx=x_+9*np.sin(y_/37.)+.28*y_; fy=y_+8*np.sin(x_/29.)+.12*x_; ci=np.floor(fx/FW); cu=np.abs((fx/FW)%1-.5); cv=np.abs(((fy+FH*.5*(ci%2))/FH)%1-.5); hb=((cu>.488)|(cv>.486))&(np.abs(x_)<.47*y_); hp=cand[hb][:900]; hz_=land(hp[:,0],hp[:,1])
for (x,y_),z in zip(hp,hz_):
    if r.random()<.10: inst(farp[int(r.integers(5))],x,y_,r.uniform(.5,.95),z)
    else: inst(fbush[int(r.integers(3))],x,y_,r.uniform(.9,1.5),z)
# woods from the painted mask
yy=r.uniform(160,380,26000); xx=yy*r.uniform(-.42,.42,26000); 
def woodat(x,y): return -.15<(look(n1,x,y,330)+.25*look(n2,x,y,160)+1.5*ss(235,330,y)+.5*ss(60,140,np.abs(x+8))*ss(160,210,y)-.72+.9*ss(-60,-110,x)*ss(180,230,y))-.1
k=woodat(xx,yy); xx,yy=xx[k],yy[k]; pts=[]; tr=None
order=np.argsort(yy); kept=[]
grid={}
for i in r.permutation(len(xx)):
    c=(int(xx[i]//6),int(yy[i]//6)); 
    if any(math.hypot(xx[i]-a,yy[i]-b)<4.3 for dx in(-1,0,1) for dy in(-1,0,1) for a,b in grid.get((c[0]+dx,c[1]+dy),[])): continue
    grid.setdefault(c,[]).append((xx[i],yy[i])); kept.append(i)
kept=kept[:2000]; zs=land(xx[kept],yy[kept])
for i,z in zip(kept,zs): inst(farp[int(r.choice(5,p=[.28,.24,.22,.10,.16]))],xx[i],yy[i],r.uniform(.75,1.25),z)
print('instances',ni,'woods',len(kept))
# grass blades near + tufts at wall feet
n=230000 if big else 120000; yb=48+26*r.random(n)**1.3; xb=(r.random(n)*2-1)*.42*yb; dl,_=ltree.query(np.stack([xb,yb],1)); cl=look(n2,xb,yb,14); ok=(dl>1.75)&(cl>-.9)
G=M(); P=np.stack([xb,yb,land(xb,yb)-.02],1)[ok]; blades(G,P,.08,.30,3,.012,.4); n=26000; gw=np.array(GW); j=r.integers(len(gw),size=n); t=r.random(n); off=r.choice([-1,1],n)*(.26+.12*r.random(n)); L_=np.hypot(gw[j,2]-gw[j,0],gw[j,3]-gw[j,1]); xb=gw[j,0]+(gw[j,2]-gw[j,0])*t+(gw[j,3]-gw[j,1])/L_*off; yb=gw[j,1]+(gw[j,3]-gw[j,1])*t-(gw[j,2]-gw[j,0])/L_*off; ok=look(n2,xb,yb,9)>-.2; blades(G,np.stack([xb,yb,land(xb,yb)-.02],1)[ok],.12,.45,5,.014,.3)
gt,_=mottled(512,(.44,.48,.20),41,.24,.3,(.10,.02,-.01)); sh['grass']=G.mesh('grass',two(diffuse(gt)))
FLW=M(); 
for q in range(60):
    x_=(r.random()*2-1)*21; y_=54.5+4*r.random(); c=r.random(3)
    if clear(x_,y_,.2): P=np.array([x_,y_,ld(x_,y_)+.3])+r.normal(0,.22,(40,3))*[1,1,.5]; leafcloud(FLW,P,np.full(40,.03),160,.035,q)
ft,_=mottled(128,(.72,.50,.52),5,.25,.2,(.2,-.1,.05)); sh['flw']=FLW.mesh('flw',two(diffuse(ft)))
for k,m in ST.items(): sh['v_'+k]=m.mesh('v'+k,leafbsdf(LT[int(k[4])],70+int(k[4]),.20,.9) if k.startswith('leaf') else (wd if k=='wood' else two(diffuse([.025,.038,.012]))))
print('veg tris',sum(len(f) for m in ST.values() for f in m.f),time.time()-T0,flush=True)
for k,m in K.items():
    if m.n: sh['k_'+k]=m.mesh(k,mt(k))
sh={k:v for k,v in sh.items() if v is not None}
env,hz,d,_=sky(-122,34,3.2,cover=.10,cloud_scale=.62,seed=15,sun_lum=5.2,W=1024,sky_scale=.9); sh['env']=envmap(env)
sc=dict(sh); sc['sensor']=cam.sensor(W,H); print('built',len(sh),time.time()-T0,flush=True)
a,info=render(sc,W,H,SPP,2,6,log=1); dn,td=denoise(a); info['oidn_s']=round(td,1)
c2=Cam(cam.pos,0,4,-3.6,40,W,H); p=a[...,-3:]; dd=a[...,9]; gy_,gx_=np.gradient(dd); m=(dd>0)&(np.hypot(gx_,gy_)<.004*np.maximum(dd,1)); yq,xq=np.mgrid[0:H,0:W]; x,y,_=c2.ideal(p[m]); e=np.hypot(x-xq[m]-.5,y-yq[m]-.5); info['truth_check']=dict(n=int(m.sum()),median_px=round(float(np.median(e)),3),p95_px=round(float(np.percentile(e,95)),3),bias_px=[round(float(np.mean(x-xq[m]-.5)),4),round(float(np.mean(y-yq[m]-.5)),4)])
hc=np.array([.62,.70,.80])*1.0; haze=1-np.exp(-np.where(dd>0,np.maximum(dd-50,0),4000)/1900); lin=dn*(1-haze[...,None])+hc*haze[...,None]
DEV=dict(expo=1.22,seed=2,wb=(1.02,.99,1.),sat=.78,contrast=1.04,noise_amt=1.6,vig=.34,sharp=.18)
img=develop(lin,**DEV)
lines=[l for l in truth(cam,LN,dd) if l['visible_fraction']>=.75 or l['kind']=='sloping' and l['visible_fraction']>=.5]
cv2.imwrite(OUT+'_look.png',cv2.resize(img[...,::-1],(1280,853),interpolation=cv2.INTER_AREA) if W>1280 else img[...,::-1])
fl_,f35=save(img,OUT+'.jpg',cam,'2026:06:17 16:24:08')
json.dump(dict(place='the Wendlow valley (invented)',scene='hill village, no visible horizon',width=3000,height=2000,roll_deg=-3.6,pitch_deg=4.,yaw_deg=0.,hfov_deg=40.,f_px=cam.f,f_mm=round(fl_,3),f35_mm=round(f35,3),principal_point=[1500,1000],distortion=dict(model='none',k1=0.),k1_in_focal_units=0.,
 signs='yaw+ right, pitch+ up, roll+ camera turned clockwise seen from behind (roll here is negative: level lines run DOWN to the right in the picture)',camera_pos=[0,0,CZ],note="lines of kind 'sloping' are straight garden walls that follow the hill: they look level-ish but are not",lines=lines,render=info),open(OUT+'.json','w'),indent=1)
print(info); [print(l['id'],l['kind'],l['bow_px'],l['visible_fraction'],[round(v) for v in l['p0']+l['p1']]) for l in lines]
