"""Wendlow valley water tower (invented), portrait, from close by.  usage: run.sh tower.py OUT WIDTH SPP"""
import sys; from kit import *
OUT,W,SPP=sys.argv[1],int(sys.argv[2]),int(sys.argv[3]); H=W*3//2; T0=time.time()
cam=Cam((0,0,1.65),6,24,1.70,46,2000,3000,k1=-.03); OVER=1.06; rg=np.random.default_rng(8); sh={}; K=Kit(); LN=[]
CX,CY,AP=.75,15.6,3.25; HW=AP*math.tan(math.pi/8); ZT=13.0; TB=14.4; BAND=[4.0,7.5,10.4]
brk,bh=bricks(base=(.52,.375,.29),mortar=(.60,.56,.49)); n=4096; z=(np.arange(n)/n*TB)[:,None]+0*brk[...,0]; u=(np.arange(n)/n*TB)[None]+0*brk[...,0]
t=cv2.resize(nz(1024,1.7,51,1),(n,n)); f=cv2.resize(nz(1024,1.2,52,3),(n,n)); brk=brk*(1+.10*t)[...,None]*(1+np.array([.03,0,-.04])*f[...,None]); rp=ss(1.2,1.35,f)[...,None]*.35; brk=brk*(1-rp)+rp*np.array([.60,.45,.36])*brk.mean(2,keepdims=True)/brk.mean()
pale=ss(.9,2.2,cv2.resize(nz(1024,1.5,53,2),(n,n)))[...,None]*.30; brk=brk*(1-pale)+pale*np.array([.66,.62,.56])
brk=weather(brk,u,z,n/TB,5,ZT-.3,.40,.26,courses=[(b-.3,1.5) for b in BAND],green=.5)
st,sg=mottled(1024,(.66,.61,.51),11,.09,1.0,lo=3); st=st*(1-.33*ss(.2,2.2,nz(1024,1.5,14,2)))[...,None]; li=(ss(1.1,1.5,nz(1024,.9,44,20))*.4)[...,None]; st=st*(1-li)+li*np.array([.68,.66,.55])
def flat(m,ops,arch,off,z0=0,z1=ZT):
    mm=M(); facade(mm,-HW,HW,z0,z1,ops,.3,np.array([1.,1.]),None,arch)
    for v,t_,f_,b in zip(mm.v,mm.t,mm.f,np.cumsum([0]+[len(v) for v in mm.v])[:-1]): m.add(v,(t_+[off,0])/TB,f_-b)
def faceF(k): a=k*45.; ar=math.radians(a); return Fr((CX-math.sin(ar)*AP,CY-math.cos(ar)*AP,0),a)     # k=0 faces the camera, +1 the left one
WN=(-.55,.55,4.85,6.95); TOPW=(-.42,.42,10.95,12.3); SM=(-.42,.42,8.2,9.75)
for k in range(8):
    S=Kit(); fr=faceF(k)
    ops=[(-.72,.72,0,3.05) if k==0 else (-.5,.5,1.5,3.3),WN,(-.55,.55,7.62,9.95) if k==0 else SM]+([TOPW] if k else []); ar=tuple(range(len(ops)))
    flat(S['brick'],ops,ar,(k*3.1)%11)
    for i,o in enumerate(ops):
        R=(o[1]-o[0])/2; zc=o[3]-R; ring(S['lint'],0,zc,R-.005,R+.23,-.014,.2,21 if R>.5 else 17,rnd=rg,gap=.010,tile=1.7)
        S['dress'].box((-.13,-.05,zc+R-.02),(.13,.1,zc+R+.32),2.1,rnd=int(rg.integers(99)))
        for x in(-R-.26,R): S['dress'].box((x,-.03,zc-.16),(x+.26,.12,zc),2.1,rnd=int(rg.integers(99)))
        if k in(0,1,7,2,6):
            if k==0 and i==0:
                for q in range(7): S['door'].box((o[0]+.08+q*.183,.16,0.12),(o[0]+.255+q*.183,.22,zc),1.1,'z',rnd=q)
                S['white'].box((o[0],.12,zc-.05),(o[1],.24,zc+.05),1.2); window(S,o[0],o[1],zc+.0,o[3],rg,dep=.24,nx=4,nz_=1,arch=True,sash=False,sill=False,lint=None)
                for x in(o[0],o[1]-.08): S['white'].box((x,.12,0.1),(x+.08,.24,zc),1.2,'z')
                for zz in(.55,1.75): S['iron'].box((o[0]+.10,.14,zz),(o[1]-.25,.165,zz+.07))
                S['iron'].cyl((.45,.10,1.05),(.45,.18,1.05),.06,n=16)
            elif k==0 and i==2: window(S,o[0],o[1],o[2],o[3],rg,dep=.24,nx=2,nz_=4,arch=True,sash=False,sill=False,lint=None,t=.08)
            else: window(S,o[0],o[1],o[2],o[3],rg,dep=.22,nx=3 if R>.5 else 2,nz_=4 if R>.5 else 3,arch=True,sash=R>.5,lint=None,t=.065)
        S['dark'].quad([o[0],.5,o[2]],[o[1],.5,o[2]],[o[1],.5,o[3]],[o[0],.5,o[3]])
    for b,p,hh in((BAND[0],.09,.0),(BAND[1],.10,0),(BAND[2],.09,0)):
        for z0,z1,pp in((b-.28,b-.06,p*.6),(b-.06,b+.04,p+.03)):
            w=HW+pp*math.tan(math.pi/8); nb=3; xs=np.linspace(-w,w,nb+1)
            for q in range(nb): S['dress'].box((xs[q]+(.003 if q else 0),-pp,z0),(xs[q+1]-(.003 if q<nb-1 else 0),.1,z1),2.1,rnd=int(rg.integers(999)))
    for z0,z1,pp in((0,.42,.16),(.425,.85,.13),(.85,.97,.17)):
        w=HW+pp*math.tan(math.pi/8); xs=[-w,-w*.3,w*.45,w] if z0 else [-w,-w*.5,w*.2,w]
        for a,b in zip(xs[:-1],xs[1:]):
            if k==0 and not(b<=-.72 or a>=.72):
                for a2,b2 in((a,min(b,-.72)),(max(a,.72),b)):
                    if b2>a2+.02: S['dress'].box((a2,-pp,z0),(b2,.1,z1),2.1,rnd=int(rg.integers(999)))
                continue
            S['dress'].box((a+.003,-pp,z0),(b-.003,.1,z1),2.1,rnd=int(rg.integers(999)))
    for q in range(40):      # quoins
        zz=.98+q*.305
        if zz+.3>ZT-.55 or any(b-.60<zz<b+.04 for b in BAND): continue
        l=.46 if (q+k)%2 else .27; w=HW+.02*math.tan(math.pi/8)
        S['quoin'].box((-w,-.02,zz+.005),(-w+l,.1,zz+.30),2.1,rnd=int(rg.integers(999))); l=.27 if (q+k)%2 else .46; S['quoin'].box((w-l,-.02,zz+.005),(w,.1,zz+.30),2.1,rnd=int(rg.integers(999)))
    # brick corbels + stone cornice
    for q in range(6): x=-HW+.12+q*(2*HW-.24-.2)/5; S['lint'].box((x,-.16,ZT-.42),(x+.2,.05,ZT-.14),1.7,rnd=q+k*9); S['lint'].box((x,-.09,ZT-.58),(x+.2,.05,ZT-.42),1.7,rnd=q+k*5)
    for z0,z1,pp in((ZT-.14,ZT+.04,.20),(ZT+.04,ZT+.17,.34)): w=HW+pp*math.tan(math.pi/8); S['dress'].box((-w,-pp,z0),(w,.3,z1),2.1,rnd=k)
    # iron tank: flanged panels
    TZ0,TZ1,tp=ZT+.17,ZT+2.45,.16; w=HW+tp*math.tan(math.pi/8); S['tank'].quad([-w,-tp,TZ0],[w,-tp,TZ0],[w,-tp,TZ1],[-w,-tp,TZ1],2.4,rnd=k)
    for q in range(4):
        x=-w+q*2*w/3; S['tank'].box((x-.035,-tp-.05,TZ0),(x+.035,-tp,TZ1),2.4,'z',rnd=q)
        for j in range(10): zz=TZ0+.12+j*.225; S['tank'].cyl((x+(.09 if q==0 else -.09 if q==3 else .075),-tp,zz),(x+(.09 if q==0 else -.09 if q==3 else .075),-tp-.022,zz),.02,n=7)
    for zz,hh in((TZ0,.08),((TZ0+TZ1)/2-.035,.07),(TZ1-.10,.12)): S['tank'].box((-w-.02,-tp-.06,zz),(w+.02,-tp+.02,zz+hh),2.4,rnd=k)
    for q in range(3):
        for j in range(2):
            xa,xb=-w+q*2*w/3+.13,-w+(q+1)*2*w/3-.13; za,zb=TZ0+.20+j*1.16,TZ0+1.0+j*1.16
            for P in(((xa,-tp-.02,za),(xb,-tp,za+.03)),((xa,-tp-.02,zb-.03),(xb,-tp,zb)),((xa,-tp-.02,za),(xa+.03,-tp,zb)),((xb-.03,-tp-.02,za),(xb,-tp,zb))): S['tank'].box(P[0],P[1],2.4)
    K.put(S,fr)
    # low lead roof
    w=HW+.2*math.tan(math.pi/8); P=fr([[-w-.1,-.34,TZ1],[w+.1,-.34,TZ1]]); K['lead'].add([P[0],P[1],[CX,CY,TZ1+1.25]],[[0,0],[1,0],[.5,1]],[[0,1,2]]); 
for a,b,r0,r1 in((1.2,1.5,.35,.30),(1.5,1.75,.18,.26),(1.75,3.4,.035,.012)): K['iron'].cyl((CX,CY,TZ1+a),(CX,CY,TZ1+b),r0,r1,20)
vx,vz=CX,TZ1+2.6; K['iron'].box((vx-.75,CY-.012,vz),(vx+.6,CY+.012,vz+.035)); K['gold'].add([[vx+.35,CY,vz-.2],[vx+.8,CY,vz+.017],[vx+.35,CY,vz+.24]],np.zeros((3,2)),[[0,1,2]]); K['gold'].box((vx-.95,CY-.01,vz-.13),(vx-.55,CY+.01,vz+.17))
F0=faceF(0); Y0=CY-AP
# balcony on the front face (and ironwork)
bz=7.62; bw,bd=1.25,1.15; S=Kit(); S['dress'].box((-bw-.05,-bd-.05,bz-.12),(bw+.05,0,bz),2.1,rnd=4); S['iron'].box((-bw-.06,-bd-.065,bz-.10),(bw+.06,-bd-.05,bz-.02))
def bars(x0,y0,x1,y1,n):
    for q in range(n+1):
        x,y=x0+(x1-x0)*q/n,y0+(y1-y0)*q/n; S['iron'].cyl((x,y,bz),(x,y,bz+1.02),.011,n=7); 
        if q<n:
            xm,ym=x+(x1-x0)/n/2,y+(y1-y0)/n/2; th=np.linspace(0,2*np.pi,9); 
            for a,b in zip(th[:-1],th[1:]): rr=math.hypot(x1-x0,y1-y0)/n*.40; ux,uy=(x1-x0)/math.hypot(x1-x0,y1-y0),(y1-y0)/math.hypot(x1-x0,y1-y0); S['iron'].cyl((xm+ux*rr*math.cos(a),ym+uy*rr*math.cos(a),bz+.89+rr*math.sin(a)),(xm+ux*rr*math.cos(b),ym+uy*rr*math.cos(b),bz+.89+rr*math.sin(b)),.007,n=5,cap=False)
bars(-bw,-bd,bw,-bd,20); bars(-bw,0,-bw,-bd,9); bars(bw,0,bw,-bd,9)
for zz,hh in((bz+.06,.02),(bz+.80,.02),(bz+.97,.035),(bz+1.02,.03)):
    e=.018 if hh<.03 else .028; S['iron'].box((-bw-e,-bd-e,zz),(bw+e,-bd+e,zz+hh)); S['iron'].box((-bw-e,-bd,zz),(-bw+e,0,zz+hh)); S['iron'].box((bw-e,-bd,zz),(bw+e,0,zz+hh))
for x in(-bw,bw): S['iron'].cyl((x,-bd,bz),(x,-bd,bz+1.10),.03,n=12); S['iron'].cyl((x,-bd,bz+1.1),(x,-bd,bz+1.2),.05,.01,12)
for x in(-bw+.12,-.01,bw-.16):
    S['iron'].box((x,-.06,bz-1.0),(x+.05,0,bz-.12)); S['iron'].box((x,-bd+.05,bz-.17),(x+.05,0,bz-.12)); th=np.linspace(0,np.pi/2,9)
    for R,cy,cz in((.84,-.9+.0,-1.0),(.60,-.66,-.72)):
        for a,b in zip(th[:-1],th[1:]): S['iron'].cyl((x+.025,-R+R*math.cos(a)-.03,bz-.15-R+R*math.sin(a)),(x+.025,-R+R*math.cos(b)-.03,bz-.15-R+R*math.sin(b)),.018,n=7,cap=False)
    th=np.linspace(0,2*np.pi,13)
    for a,b in zip(th[:-1],th[1:]): S['iron'].cyl((x+.025,-.30+.14*math.cos(a),bz-.36+.14*math.sin(a)),(x+.025,-.30+.14*math.cos(b),bz-.36+.14*math.sin(b)),.014,n=6,cap=False)
# clock: stone surround, enamel dial
cz,cr=11.62,.66; ring(S['dress'],0,cz,cr,cr+.20,-.10,.0,20,0,2*np.pi,rnd=rg,gap=.008,tile=2.1); n_=512; D=np.zeros((n_,n_,3),np.float32)+np.array([.86,.84,.76],np.float32)
im=np.zeros((n_,n_),np.uint8); c=n_//2; cv2.circle(im,(c,c),250,255,5,cv2.LINE_AA); cv2.circle(im,(c,c),172,255,2,cv2.LINE_AA)
for q in range(60): a=q*math.pi/30; cv2.line(im,(int(c+236*math.sin(a)),int(c-236*math.cos(a))),(int(c+(216 if q%5 else 206)*math.sin(a)),int(c-(216 if q%5 else 206)*math.cos(a))),255,3 if q%5 else 8,cv2.LINE_AA)
for q,tx in enumerate(['XII','I','II','III','IV','V','VI','VII','VIII','IX','X','XI']):
    a=q*math.pi/6; g=np.zeros((120,120),np.uint8); (w_,h_),_=cv2.getTextSize(tx,cv2.FONT_HERSHEY_TRIPLEX,.95,2); cv2.putText(g,tx,(60-w_//2,60+h_//2),cv2.FONT_HERSHEY_TRIPLEX,.95,255,2,cv2.LINE_AA); g=cv2.warpAffine(g,cv2.getRotationMatrix2D((60,60),-math.degrees(a),1),(120,120)); x,y=int(c+192*math.sin(a))-60,int(c-192*math.cos(a))-60
    x0,y0,x1,y1=max(x,0),max(y,0),min(x+120,n_),min(y+120,n_); im[y0:y1,x0:x1]=np.maximum(im[y0:y1,x0:x1],g[y0-y:y1-y,x0-x:x1-x])
D=D*(1-im[...,None]/255.*.93)*(1-.10*ss(.5,2,nz(512,1.4,3,2)))[...,None]
th=np.linspace(0,2*np.pi,65); P=np.stack([cr*np.cos(th),0*th-.05,cz+cr*np.sin(th)],1); V=np.concatenate([[[0,-.05,cz]],P]); S['dial'].add(V,np.stack([.5+V[:,0]/cr/2,.5-(V[:,2]-cz)/cr/2],1),[[0,i+1,i+2] for i in range(64)])
def hand(a,l,w,y): d=np.array([math.sin(a),0,math.cos(a)]); p=np.array([math.cos(a),0,-math.sin(a)]); o=np.array([0,y,cz]); S['iron'].add([o-d*l*.2-p*w*.7,o-d*l*.2+p*w*.7,o+d*l*.85+p*w,o+d*l,o+d*l*.85-p*w],np.zeros((5,2)),[[0,1,2],[0,2,4],[4,2,3]])
hand(math.radians(6*42),.56,.022,-.07); hand(math.radians(30*18.7),.38,.032,-.065); S['iron'].cyl((0,-.05,cz),(0,-.085,cz),.045,n=16)
# plaque
pq=np.zeros((160,512,3),np.float32)+np.array([.13,.19,.17],np.float32); pm=np.zeros((160,512),np.uint8); cv2.putText(pm,'WENDLOW WATER',(26,70),cv2.FONT_HERSHEY_TRIPLEX,1.66,255,3,cv2.LINE_AA); cv2.putText(pm,'TOWER   1884',(78,132),cv2.FONT_HERSHEY_TRIPLEX,1.5,255,3,cv2.LINE_AA); cv2.rectangle(pm,(6,6),(505,153),255,4); pq=pq*(1-pm[...,None]/255.)+np.array([.80,.75,.58])*pm[...,None]/255.; pq*=(1-.2*ss(.3,2,nz(512,1.3,9,3)))[:160][...,None]
S['plaque'].add([[-.62,-.03,3.42-.02],[.62,-.03,3.40],[.62,-.03,3.72+.07],[-.62,-.03,3.79]],[[0,1],[1,1],[1,0],[0,0]],[[0,1,2],[0,2,3]]) if 0 else None
K.put(S,F0)
# downpipe on the right-hand face
Pq=faceF(7); D0=Pq([.95,-.12,.1]); D1=Pq([.95,-.12,ZT-.5]); K['iron'].cyl(D0,D1,.06,n=20)
for zz in np.arange(1.2,12.,1.83): a=Pq([.95,-.12,zz]); K['iron'].cyl(a,a+[0,0,.14],.075,n=20)
# pump house at the right: flank recedes, gable end towards the camera
PX,PY0,PY1,PE=4.55,6.6,13.2,3.7; S=Kit(); fr=Fr((PX,PY1,0),90); L=PY1-PY0     # local x runs towards the camera
pops=[(.9+i*2.0,2.0+i*2.0,1.1,2.75) for i in range(3)]; mm=M(); facade(mm,0,L,0,PE,pops,.24,np.array([1.,1.]),None,(0,1,2)); 
for v,t_,f_,b in zip(mm.v,mm.t,mm.f,np.cumsum([0]+[len(v) for v in mm.v])[:-1]): S['brick2'].add(v,t_/7.2,f_-b)
for o in pops: ring(S['lint'],(o[0]+o[1])/2,o[3]-.55,.545,.775,-.012,.2,19,rnd=rg,gap=.01,tile=1.7); window(S,*o,rg,dep=.2,nx=3,nz_=3,arch=True,sash=False,lint=None); S['dark'].quad([o[0],.5,o[2]],[o[1],.5,o[2]],[o[1],.5,o[3]],[o[0],.5,o[3]])
S['dress'].box((0,-.07,PE-.16),(L+.05,.1,PE),2.1,rnd=3); S['dress'].box((0,-.06,0),(L+.06,.1,.55),2.1,rnd=5); S['dress'].box((0,-.05,2.9+.12),(L+.03,.05,3.12),2.1,rnd=8) if 0 else None
for q in range(12):
    l=.44 if q%2 else .25; S['quoin'].box((L-l,-.018,.55+q*.262+.004),(L+.018,.1,.55+q*.262+.258),2.1,rnd=q)
S['fas'].box((0,-.36,PE+.00),(L+.3,-.32,PE+.17),1.3,'x'); S['fas'].quad([0,-.34,PE+.02],[L+.3,-.34,PE+.02],[L+.3,0,PE+.02],[0,0,PE+.02]); S['iron'].cyl((0,-.42,PE+.17),(L+.3,-.42,PE+.155),.06,n=16); S['iron'].cyl((.25,-.08,.1),(.25,-.08,PE-.2),.045,n=14); S['iron'].cyl((.25,-.08,PE-.22),(.25,-.42,PE+.12),.045,n=10)
tiles(S['slate'],(0,-.36,PE+.14),(1,0,0),np.array([0,1,.85])/math.hypot(1,.85),L+.3,4.6,.30,.21,rg,.016); S['dark'].quad([0,-.33,PE+.1],[L+.28,-.33,PE+.1],[L+.28,3,PE+2.8],[0,3,PE+2.8]); S['fas'].add([[L+.31,-.36,PE-.02],[L+.31,3,PE+2.85],[L+.31,3,PE+3.05],[L+.31,-.36,PE+.2]],[[0,0],[2,0],[2,.1],[0,.1]],[[0,1,2],[0,2,3]])
K.put(S,fr); K['brick2'].add([[PX,PY0,0],[PX+5,PY0,0],[PX+5,PY0,PE+3],[PX+2.9,PY0,PE+2.6],[PX,PY0,PE]],np.array([[0,0],[5,0],[5,PE+3],[2.9,PE+2.6],[0,PE]])/7.2,[[0,1,2],[0,2,3],[0,3,4]])
# lamp
X,Y=-1.15,7.7; me=K['iron']
me.cyl((X,Y,0),(X,Y,.16),.19,.17,24); me.cyl((X,Y,.16),(X,Y,.9),.11,.10,24); me.cyl((X,Y,.9),(X,Y,.98),.14,.09,24); me.cyl((X,Y,.9),(X,Y,4.0),.055,.042,24); me.cyl((X,Y,2.6),(X,Y,2.68),.07,.07,24); me.cyl((X-.36,Y,3.72),(X+.36,Y,3.72),.018,n=12); me.cyl((X,Y,3.96),(X,Y,4.04),.09,.19,24)
for q in range(6): a=q*np.pi/3+.3; me.cyl((X+.165*np.cos(a),Y+.165*np.sin(a),4.04),(X+.245*np.cos(a),Y+.245*np.sin(a),4.55),.011,n=8)
me.cyl((X,Y,4.55),(X,Y,4.59),.275,.275,24); me.cyl((X,Y,4.59),(X,Y,4.84),.25,.06,24); me.cyl((X,Y,4.84),(X,Y,4.9),.08,.07,16); me.cyl((X,Y,4.9),(X,Y,5.05),.03,.01,12)
lg=M(); lg.cyl((X,Y,4.06),(X,Y,4.54),.155,.23,24,cap=False); sh['lg']=lg.mesh('lg',{'type':'thindielectric','int_ior':1.5}); K['mantle'].cyl((X,Y,4.1),(X,Y,4.32),.05,.045)
# ground: setts, kerb, gravel margin, grass
ga,gh,_,_=rubble(8,8,200,77,(.40,.385,.36),(.27,.25,.22),(.095,.12),(.12,.22),.11,.04,.014,.012,regular=True); ga=ga*(1-.25*ss(.2,1.8,cv2.resize(nz(1024,1.4,41,2),(1600,1600))))[...,None]
K['setts'].quad([-30,-12,0],[30,-12,0],[30,10.6,0],[-30,10.6,0],8.); K['gravel'].quad([-40,10.6,.06],[40,10.6,.06],[40,40,.06],[-40,40,.06],4.)
x=-20.
while x<20: w=.9; K['dress'].box((x+.005,10.45,-.1),(x+w-.005,10.65,.12),2.1,rnd=int(x*10)+300); x+=w
K['dress'].box((CX-1.1,Y0-.75,0),(CX+1.1,Y0,.11),2.1,rnd=2)
G=M(); n=60000; gx=-14+30*rg.random(n); gy=10.9+12*rg.random(n); ok=(np.hypot(gx-CX,gy-CY)>AP+.55)&~((np.abs(gx-CX)<1.3)&(gy<Y0+1))&(gx<PX-.2)&((gx<-1.5)|(gx>3.4)|(rg.random(n)<.06)); blades(G,np.stack([gx,gy,0*gx+.05],1)[ok],.05,.24,3,.008,.45); n=5000; a=rg.random(n)*6.283; rr=AP+.42+.10*rg.random(n); ok=np.sin(a*9)+np.sin(a*23)>.4; blades(G,np.stack([CX+rr*np.cos(a),CY+rr*np.sin(a),0*a+.05],1)[ok],.08,.35,4,.008,.3)
n=900; gx=np.full(n,PX-.1)-.06*rg.random(n); gy=PY0+6*rg.random(n); ok=np.sin(gy*5)>.3; blades(G,np.stack([gx,gy,0*gx],1)[ok],.06,.28,6,.008,.3)
# trees: one beside the lamp, a distant belt
lb=leafbsdf((.47,.54,.20),71,.22,.9); V=Kit()
def stamp(ms,x,y,sc,a,key='leaf'):
    R=np.array([[math.cos(a),math.sin(a),0],[-math.sin(a),math.cos(a),0],[0,0,1.]])*sc
    for k,m in zip((key,'wood','core'),ms):
        for v,t_,f_,b in zip(m.v,m.t,m.f,np.cumsum([0]+[len(v) for v in m.v])[:-1]): V[k].add(v@R+[x,y,0],t_,f_-b)
big=W>1200
stamp(treeproto(31,11.5,3.0,230000,.048,.24,nb=46,trunk=.017,core=False),-6.3,16.5,1.,.4); far=[treeproto(41+q,9,3.6,9000,.17,.08,nb=18) for q in range(3)]
for q in range(26): x=-34+70*rg.random(); y=38+16*rg.random(); stamp(far[q%3],x,y,.6+.35*rg.random(),rg.random()*6,'leaf2')
sm=treeproto(51,1.5,1.1,9000,.035,.02,nb=18)
for x,y,s_ in((-3.6,13.6,.9),(-4.6,13.0,1.1),(-5.8,13.8,1.2),(4.0,13.9,.6),(-3.0,17,1.3)): stamp(sm,x,y,s_,x,'leaf2')
for k,m in V.items(): sh['v'+k]=m.mesh('v'+k,lb if k=='leaf' else leafbsdf((.36,.45,.17),73,.2,.9) if k=='leaf2' else two(diffuse([.15,.125,.10] if k=='wood' else [.025,.035,.012])))
gt,_=mottled(512,(.42,.46,.20),41,.24,.3,(.10,.02,-.01)); sh['grass']=G.mesh('grass',two(diffuse(gt)))
tk,tg=mottled(1024,(.27,.34,.31),81,.05,1.3,lo=2); ru=ss(.9,2.3,nz(1024,1.7,82,2)+.5*cv2.resize(nz(1024,1.,83,3)[:,:96],(1024,1024)).T); tk=tk*(1-.6*ru)[...,None]+(.6*ru)[...,None]*np.array([.36,.26,.19])
b2,bh2=bricks(2048,32,96,91,(.50,.36,.275),(.60,.56,.49)); zz=(np.arange(2048)/2048*7.2)[:,None]+0*b2[...,0]; b2=weather(b2,zz.T,zz,2048/7.2,6,PE,.4,.25); lt,lg_=mottled(1024,(.50,.34,.25),31,.15,1.4)
def mt(k):
    P_=dict(white=(.78,.77,.72),door=(.15,.24,.27),fas=(.74,.73,.69),gold=(.75,.58,.22))
    if k=='brick': return bump(two(diffuse(brk)),bh,.009)
    if k=='brick2': return bump(two(diffuse(b2)),bh2,.009)
    if k=='lint': return two(diffuse(lt))
    if k in('dress','quoin'): return bump(two(diffuse(st)),sg,.004)
    if k=='tank': return bump(two(princ(tk,.5,.4)),tg,.004)
    if k=='lead': return two(princ(mottled(256,(.45,.46,.47),5,.08)[0],.5,.4))
    if k=='glass': return {'type':'plastic','diffuse_reflectance':tex(glassatlas()),'int_ior':1.65,'nonlinear':False}
    if k=='slate': return two(princ(palette(1024,(.37,.37,.40),61,.10,.04,lich=.4,moss=.35),.5,.35))
    if k=='setts': return bump(two(diffuse(ga)),gh,.012)
    if k=='gravel': a=mottled(1024,(.40,.38,.26),91,.16,.6,lo=8)[0]; return two(diffuse(a))
    if k=='dial': return two(princ(D,.35,.4))
    if k=='iron': return two(princ(mottled(512,(.085,.09,.09),41,.22,1.2)[0],.42,.5))
    if k in P_: return two(princ(planks(512,1,sum(map(ord,k)),P_[k])[0],.45,.35))
    return two(diffuse({'dark':[.03,.028,.025],'mantle':[.8,.77,.68]}[k]))
for k,m in K.items():
    if m.n: sh['k_'+k]=m.mesh(k,mt(k))
env,hz,d,_=sky(-118,19,2.6,cover=.085,cloud_scale=.40,seed=35,sun_lum=4.2); sh['env']=envmap(env)
Wr,Hr=int(round(W*OVER)),int(round(H*OVER)); sc=dict(sh); sc['sensor']=cam.sensor(Wr,Hr,OVER); print('built',len(sh),time.time()-T0,flush=True)
a,info=render(sc,Wr,Hr,SPP,2,6,log=1); dn,td=denoise(a); info['oidn_s']=round(td,1); info['truth_check']=poscheck(None,cam,a,OVER,Wr,Hr)
lin=dn; dep=a[...,9]; haze=1-np.exp(-np.where(dep>0,dep,0)/700); lin=lin*(1-haze[...,None])+hz*haze[...,None]*.8
k=W/2000; yy,xx=np.mgrid[0:H,0:W]; ux,uy=cam.undistort_grid((xx+.5)/k,(yy+.5)/k); mx=((ux-cam.cx)*k+Wr/2-.5).astype(np.float32); my=((uy-cam.cy)*k+Hr/2-.5).astype(np.float32); print('remap reach',mx.min(),mx.max(),my.min(),my.max(),Wr,Hr)
lin=np.maximum(cv2.remap(lin.astype(np.float32),mx,my,cv2.INTER_LANCZOS4,borderMode=cv2.BORDER_REFLECT),0); depd=cv2.remap(np.ascontiguousarray(dep),mx,my,cv2.INTER_NEAREST)
DEV=dict(expo=1.46,seed=4,wb=(1.02,1,.97),sat=.84,contrast=1.08,noise_amt=1.5,vig=.36,sharp=.22); img=develop(lin,**DEV)
f=lambda k,P: faceF(k)(P); w2=HW+.02*math.tan(math.pi/8); B=BAND
for nm,s in(('left',-1),('right',1)):
    for i,(za,zb) in enumerate(((1.0,3.35),(4.05,6.88),(7.9,9.75),(10.5,12.4))): LN.append((f'tower front {nm} corner, stage {i+1}','vertical',F0([s*w2,-.02,za]),F0([s*w2,-.02,zb])))
LN+=[('outer left corner, stage 2','vertical',f(1,[-w2,-.02,4.05]),f(1,[-w2,-.02,6.88])),('outer right corner, stage 2','vertical',f(7,[w2,-.02,4.05]),f(7,[w2,-.02,6.88])),('front window, storey 2, left jamb','vertical',F0([-.55,0,4.85]),F0([-.55,0,6.2])),('door left jamb','vertical',F0([-.72,0,.15]),F0([-.72,0,2.1])),('lamp post axis','vertical',(X,Y-.05,1.),(X,Y-.043,3.7)),('downpipe axis','vertical',D0+[0,0,.3],D1),('pump house rear downpipe axis','vertical',(PX-.125,PY1-.25,.2),(PX-.125,PY1-.25,PE-.5))]
for i,b in enumerate(B): w=HW+(.10 if i==1 else .09)*.6*math.tan(math.pi/8); p=(.10 if i==1 else .09)*.6; LN.append((f'front string course {i+1}, lower edge','horizontal-facing',F0([-w,-p,b-.28]),F0([w,-p,b-.28])))
w=HW+.34*math.tan(math.pi/8); LN+=[('front cornice top block, lower edge','horizontal-facing',F0([-w,-.34,ZT+.04]),F0([w,-.34,ZT+.04])),('balcony rail top, front edge','horizontal-facing',F0([-bw-.028,-bd-.028,bz+1.05]),F0([bw+.028,-bd-.028,bz+1.05])),('balcony slab lower front edge','horizontal-facing',F0([-bw-.05,-bd-.05,bz-.12]),F0([bw+.05,-bd-.05,bz-.12])),('kerb top edge','horizontal-facing',(-8,10.45,.12),(4.4,10.45,.12)),
 ('pump house fascia lower edge','horizontal-receding',(PX-.36,PY1,PE),(PX-.36,PY0-.3,PE)),('pump house stone band lower edge','horizontal-receding',(PX-.07,PY1,PE-.16),(PX-.07,PY0-.05,PE-.16)),('pump house plinth top edge','horizontal-receding',(PX-.06,PY1,.55),(PX-.06,PY0-.06,.55)),('balcony slab left lower edge','horizontal-receding',F0([-bw-.05,-bd-.05,bz-.12]),F0([-bw-.05,0,bz-.12])),('balcony slab right lower edge','horizontal-receding',F0([bw+.05,-bd-.05,bz-.12]),F0([bw+.05,0,bz-.12]))]
for k,nm in((1,'left'),(7,'right')):
    for i in(0,1,2): b=B[i]; p=(.10 if i==1 else .09)*.6; w=HW+p*math.tan(math.pi/8); LN.append((f'{nm} oblique face, string course {i+1}, lower edge','other',f(k,[-w,-p,b-.28]),f(k,[w,-p,b-.28])))
lines=[l for l in truth(cam,LN,depd) if l['visible_fraction']>=.75]
for l in lines:
    if l['bow_px']>=4: l['also']='curved-by-lens'
cv2.imwrite(OUT+'_look.png',cv2.resize(img[...,::-1],(853,1280),interpolation=cv2.INTER_AREA) if W>900 else img[...,::-1])
fl35=36./2/math.tan(math.radians(46)/2)*(2/3)*1.5; 
def save_portrait():
    # sensor 23.6 x 15.73 mm held upright: the 46 degrees lie across its SHORT side
    from PIL import Image; import piexif
    t=math.tan(math.radians(cam.hfov)/2); fl,f35=15.733/2/t,24./2/t; date=b'2026:06:20 18:42:37'
    ex={'0th':{piexif.ImageIFD.Make:b'Invented Optics',piexif.ImageIFD.Model:b'IO-1',piexif.ImageIFD.Orientation:1,piexif.ImageIFD.DateTime:date,piexif.ImageIFD.Software:b'IO-1 firmware 1.0',piexif.ImageIFD.XResolution:(300,1),piexif.ImageIFD.YResolution:(300,1),piexif.ImageIFD.ResolutionUnit:2},
     'Exif':{piexif.ExifIFD.DateTimeOriginal:date,piexif.ExifIFD.FocalLength:(round(fl*100),100),piexif.ExifIFD.FocalLengthIn35mmFilm:round(f35),piexif.ExifIFD.FNumber:(8,1),piexif.ExifIFD.ExposureTime:(1,200),piexif.ExifIFD.ISOSpeedRatings:320,piexif.ExifIFD.PixelXDimension:img.shape[1],piexif.ExifIFD.PixelYDimension:img.shape[0],piexif.ExifIFD.ColorSpace:1}}
    Image.fromarray(img).save(OUT+'.jpg',quality=92,subsampling=0,exif=piexif.dump(ex)); return fl,f35
fl_,f35=save_portrait()
json.dump(dict(place='the Wendlow valley (invented)',scene='brick and stone water tower from close by',width=2000,height=3000,roll_deg=1.7,pitch_deg=24.,yaw_deg=6.,hfov_deg=46.,hfov_note='across the SHORT (horizontal) side of the portrait frame, of the ideal pinhole before distortion: f_px = 1000/tan(23 deg)',f_px=cam.f,f_mm=round(fl_,3),f35_mm=round(f35,3),principal_point=[1000,1500],
 distortion=dict(model='Brown-Conrady, k1 only',k1=-.03,unit='r = distance from the centre / half the picture diagonal (1802.776 px)',forward='recorded = ideal*(1+k1*r_ideal^2)'),k1_in_focal_units=-.03*(cam.f/cam.hd)**2,signs='yaw+ right, pitch+ up, roll+ camera turned clockwise seen from behind (level lines run UP to the right)',camera_pos=[0,0,1.65],lines=lines,render=info),open(OUT+'.json','w'),indent=1)
print(info); [print(l['id'],l['kind'],l['bow_px'],l['visible_fraction'],[round(v) for v in l['p0']+l['p1']]) for l in lines]
