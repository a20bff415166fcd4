"""Wendlow valley railway viaduct (invented).  usage: run.sh viaduct.py OUT WIDTH SPP"""
import sys; from veg import *
t00=time.time(); OUT,W,SPP=sys.argv[1],int(sys.argv[2]),int(sys.argv[3]); H=W*2//3
K1=-.16; RV=.94                      # beyond the recorded radius RV the k1-only inverse nears its fold (0.9623): straight continuation, extreme corners only
cam=Cam((0,0,2.2),0,7,1.10,88,3000,2000,k1=K1); OVER=1.36; RS=.90 if W>=3000 else 1.   # RS: sampling of the wide frame
r=np.random.default_rng(11); sh={}
YF,YB=48.,56.2; PITCH=10.8; R=4.3; ZS=15.6; ZT=21.3; ZP=22.75; ZC=23.0; ks=range(-6,7); cx_=lambda k:k*PITCH-1.0
# --- ground
nz=noise(1024,1.7,21,2); nf=noise(1024,1.0,22,24)
from scipy.ndimage import map_coordinates
def nl(n,x,y,s): return map_coordinates(n,[np.asarray(y,float)*s,np.asarray(x,float)*s],order=1,mode='grid-wrap')
xc=lambda y: 9.8+3.4*np.sin((y-48)/13.)+.7*np.sin(y/4.7)
def land(x,y):
    x,y=np.broadcast_arrays(np.asarray(x,float),np.asarray(y,float)); s1=x.shape; x=np.atleast_2d(x);y=np.atleast_2d(y); u=x-xc(np.minimum(y,160)); au=np.abs(u)
    sd=15*(1-np.exp(-(np.maximum(au-np.where(u<0,13,9),0)/np.where(u<0,36.,27.))**2)); z=.42+sd+.16*nl(nz,x,y,9)*ss(2,8,au)+.03*nl(nf,x,y,30)+.035*np.maximum(y-70,0)+ (ss(50,66,np.abs(x)))*5*np.exp(-((y-52)/13)**2)
    k=1-ss(2.9,6.0,np.abs(x+.6))*1.; k=k*(1-ss(60,75,y)); z=z*(1-k)+(.5+.012*nl(nf,x,y,60))*k
    z=z-.40*(1-ss(3.0,6.5,au))*(1-k); ch=np.exp(-(au/(2.9+.35*np.sin(y*.7)+.2*nl(nf,x,y,20)))**4); z=z-1.2*ch*(.9+.1*nl(nf,x,y,14))
    z=z-.07*(1-ss(.70,.86,np.abs(x-(-.35+.25*np.sin(y/17)*ss(20,60,y)))))*(y<74)
    return z.reshape(s1)
def gridmesh(gx,gy,tile): 
    m=M(); m.grid(np.stack([gx,gy,land(gx,gy)],-1),np.stack([gx,gy],-1)/tile); return m
gm,gg=mottled(2048,(.30,.325,.135),31,.20,.8,(.05,.02,-.01),lo=6); so=ss(.7,1.9,noise(2048,1.2,35,8)); gm=gm*(1-.5*so[...,None])+.5*so[...,None]*np.array([.33,.28,.19])
gx,gy=np.meshgrid(np.arange(-80,80.1,.22),np.arange(-3,72.1,.22)); L=gridmesh(gx,gy,4.); sh['land']=L.mesh('land',bump(two(diffuse(gm)),gg,.03),smooth=True)
gy=72*(520/72)**np.linspace(0,1,240); gx,gy=np.meshgrid(np.linspace(-1,1,420),gy); gx=gx*gy*1.5; L=gridmesh(gx,gy,330.); fm=fieldtex(2048,60,5,.0035); sh['mid']=L.mesh('mid',two(diffuse(fm)),smooth=True)
# path: two worn wheel lines, rough edge
ya=np.linspace(1.2,74,900); u=np.linspace(-1,1,26); wob=1+.10*nl(nz,ya[None]*0+3,ya[None],40)[0]+.05*nl(nf,ya[None]*0+3,ya[None],30)[0]; px=-.35+.25*np.sin(ya/17)*ss(20,60,ya); X=px[:,None]+u*.92*wob[:,None]; Yp=np.repeat(ya[:,None],26,1); Z=.535+0*X-.04*np.exp(-((np.abs(u)-.5)/.22)**2)+.012*nl(nf,X,Yp,120)-.09*ss(.80,1.,np.abs(u))
pm=M(); pm.grid(np.stack([X,Yp,Z],-1),np.stack([X,Yp],-1)/2.6); gv,gh=gravel(2048,30000,9,dirt=(.40,.34,.26)); gvd=ss(-.3,1.2,noise(2048,1.5,77,2)); dirt_,_=mottled(2048,(.47,.41,.32),79,.10,.8); gv=gv*(1-.6*gvd[...,None])+dirt_*.6*gvd[...,None]; sh['path']=pm.mesh('path',bump(two(diffuse(gv)),gh*(1-.5*gvd),.012),smooth=True)
# stream
yw=np.arange(-3,140,.12); uw=np.linspace(-5,5,60); X=xc(np.minimum(yw,160))[:,None]+uw; Yw=np.repeat(yw[:,None],60,1); Z=-.20+.010*nl(nf,X,Yw*.45,55)+.006*nl(nz,X*2,Yw,160); wm=M(); wm.grid(np.stack([X,Yw,Z],-1),np.stack([X,Yw],-1)); sh['water']=wm.mesh('water',two({'type':'roughplastic','int_ior':1.33,'alpha':.04,'nonlinear':False,'diffuse_reflectance':{'type':'rgb','value':[.035,.042,.030]}}),smooth=True)
S=M(); th,ph=np.meshgrid(np.linspace(0,np.pi,8),np.linspace(0,2*np.pi,12),indexing='ij')
for q in range(700):
    y=4+70*r.random()**1.4; x=float(xc(y))+r.choice([-1,1])*(2.0+1.1*r.random()); z=max(float(land(x,y)),-.30); s=.04+.17*r.random()**2.5; d=np.stack([np.sin(th)*np.cos(ph),np.sin(th)*np.sin(ph),np.cos(th)],-1)*(s*(1+.15*np.sin(3*th+q)*np.sin(2*ph+q)))[...,None]*[1.3,1,.65]; S.grid(d+[x,y,z+s*.1],np.stack([th,ph],-1)*.06+r.random(2))
stt,stg=mottled(512,(.36,.35,.315),51,.16,1.,(.05,.03,0)); sh['stones']=S.mesh('stones',two(diffuse(stt)),smooth=True)
# grass
G=[M(),M(),M()]
def field(n,y0,y1,m,hmin,hmax,w,seed,lean=.4):
    rr=np.random.default_rng(seed); y=np.sqrt(y0**2+(y1**2-y0**2)*rr.random(n)); x=(rr.random(n)*2-1)*(1.22*y+.8); z=land(x[None],y[None])[0]; cl=nl(nz,x[None],y[None],34)[0]; c2=nl(nf,x[None],y[None],25)[0]; pe=np.abs(x+.35)/.90; z=np.where(pe<.2,.545,z); ok=(z>-.16)&((pe>1.02)|((pe>.90)&(rr.random(n)<.35))|((pe<.16)&(rr.random(n)<.55)))&(rr.random(n)<.55+.35*cl+.15*c2); P=np.stack([x,y,z-.01],1)[ok]; tall=(.55+.45*ss(1.0,2.2,pe[ok])+.35*ss(.2,1.4,cl[ok]))[:,None]; r2=np.random.default_rng(seed)
    q=len(P); h=(hmin+(hmax-hmin)*r2.random(q)**1.6)[:,None]*tall; a=r2.random(q)*6.28; d=np.stack([np.cos(a),np.sin(a),0*a],1); l=r2.normal(0,lean,(q,2)); tip=P+np.concatenate([l,np.ones((q,1))],1)*h; mid=P+np.concatenate([l*.35,np.ones((q,1))*.6],1)*h; v=np.stack([P-d*w,P+d*w,mid+d*w*.8,tip,mid-d*w*.8],1).reshape(-1,3); uv=np.repeat(np.stack([r2.random(q),np.clip(.5+.22*cl[ok]+.12*r2.standard_normal(q),.01,.84)],1),5,0); uv[3::5,1]+=.12; i=np.arange(q)[:,None]*5; m.add(v,uv,np.concatenate([i+[0,1,2],i+[0,2,4],i+[4,2,3]])); return P
P1=field(260000,2.0,8.5,G[0],.05,.20,.0032,1); P2=field(330000,8.5,21,G[0],.07,.24,.0065,2); P3=field(330000,21,48,G[0],.10,.30,.014,3); P4=field(120000,56.5,110,G[0],.12,.4,.03,4)
gt,_=mottled(512,(.405,.445,.185),41,.20,.3,(.08,.02,-.01)); gt*=np.linspace(.72,1.22,512)[:,None,None]*np.array([1,1,1]); gt[...,0]*=np.linspace(.92,1.12,512)[:,None]; sh['grass']=G[0].mesh('grass',leafmat(np.clip(gt,0,1),.95))
FLW=M(); Pf=np.concatenate([P1[::60],P2[::50],P3[::60]]); Pf=Pf[nl(nz,Pf[:,0][None],Pf[:,1][None],60)[0]>.25]
for j,(p) in enumerate(Pf[:5200]):
    pass
n=len(Pf); s=(.006+.0007*Pf[:,1])[:,None]*(.7+.6*r.random((n,1))); p=Pf+np.stack([0*r.random(n),0*r.random(n),.10+.16*r.random(n)],1); a=r.normal(0,1,(n,3)); a[:,2]*=.3; a/=np.linalg.norm(a,axis=1,keepdims=True); b=np.cross(a,[0,-.4,1]); v=np.stack([p-a*s,p+b*s,p+a*s,p-b*s],1).reshape(-1,3); i=np.arange(n)[:,None]*4; FLW.add(v,np.repeat(r.random((n,2)),4,0),np.concatenate([i+[0,1,2],i+[0,2,3]])); ft=np.ones((64,64,3),np.float32)*[.88,.80,.22]; ft[:26]=[.90,.89,.84]; sh['flw']=FLW.mesh('flw',two(diffuse(ft)))
RB=M(); # rushes by the water
for q in range(46):
    y=5+60*r.random()**1.3; x=float(xc(y))+r.choice([-1,1])*(3.0+.5*r.random()); c=np.stack([r.normal(x,.28,60),r.normal(y,.28,60)],1); z=land(c[:,0][None],c[:,1][None])[0]; blades(RB,np.concatenate([c,z[:,None]],1)[z>-.35],.30,.80,q,.006+.0003*y,.18)
rt,_=mottled(256,(.36,.39,.17),43,.2,.3,(.08,.03,-.01)); sh['rush']=RB.mesh('rush',leafmat(np.clip(rt,0,1),.5))
# --- viaduct: baked, unrepeated face
X0,X1,Z0,Z1=-76.,74.,-3.,23.2; PPM=52; fa,fh=ashlar(X1-X0,Z1-Z0,PPM,3); Hp,Wp=fa.shape[:2]; xx=X0+(np.arange(Wp)+.5)/PPM; zz=Z0+(np.arange(Hp)+.5)/PPM
big=cv2.resize(noise(1024,1.7,61,2),(Wp,Wp))[:Hp]; strk=cv2.resize(noise(2048,1.0,62,6)[:90],(Wp,Hp),interpolation=cv2.INTER_CUBIC); med=np.tile(noise(2048,1.5,63,4),(1,Wp//2048+1))[:Hp%2048 if Hp<2048 else 2048,:Wp] if Hp<2048 else cv2.resize(noise(2048,1.5,63,4),(Wp,Hp))
soot=ss(.2,2.0,big*.7+med*.8)*.42; run=ss(-.2,1.7,strk)*(ss(7,1,ZT-zz)*.40)[:,None]*ss(-.8,.8,big)
dr=np.zeros(Wp,np.float32)
for k in ks: 
    c=cx_(k)+PITCH/2; dr+=np.exp(-((xx-c-.05*k)/.30)**2)*r.uniform(.25,1)
drip=dr[None]*(np.exp(-np.maximum(ZT-zz,0)/6.)*(zz<ZT))[:,None]*(.55+.3*strk)*.6
damp=ss(3.2,.2,zz)[:,None]*ss(-.9,.9,med+.4*strk)
dk=np.clip(soot+run+np.clip(drip,0,.6),0,.72)[...,None]; fa=fa*(1-dk)+fa*np.array([.40,.39,.38])*dk; fa=fa*(1-.55*damp[...,None])+np.array([.20,.23,.12])*.55*damp[...,None]
lich=ss(1.0,1.9,np.tile(noise(2048,.9,64,24),(Hp//2048+1,Wp//2048+1))[:Hp,:Wp]+.5*big)*.35; fa=fa*(1-lich[...,None])+np.array([.69,.68,.60])*lich[...,None]; efl=ss(.9,2.2,cv2.resize(noise(2048,1.3,66,3)[:500],(Wp,Hp)))*.25; fa=fa*(1-efl[...,None])+np.array([.72,.68,.58])*efl[...,None]
uvf=lambda x,z: np.stack([(np.asarray(x,float)-X0)/(X1-X0),(np.asarray(z,float)-Z0)/(Z1-Z0)],-1)
F=M(); SO=M(); SD=M(); VO=M(); ST=M()
def fq(x0,z0,x1,z1,y=YF): F.add([[x0,y,z0],[x1,y,z0],[x1,y,z1],[x0,y,z1]],uvf([x0,x1,x1,x0],[z0,z0,z1,z1]),[[0,1,2],[0,2,3]])
t=np.linspace(np.pi,0,61)
for k in ks:
    c=cx_(k); ax,az=c+R*np.cos(t),ZS+R*np.sin(t); v=np.stack([np.concatenate([ax,ax]),np.full(122,YF),np.concatenate([az,np.full(61,ZT)])],1); i=np.arange(60)[:,None]; F.add(v,uvf(v[:,0],v[:,2]),np.concatenate([i+[0,1,62],i+[0,62,61]]))
    fq(c+R,Z0,c+PITCH-R,ZT); yb=np.linspace(YF,YB,2); sm=np.stack([np.repeat(ax,2),np.tile(yb,61),np.repeat(az,2)],1); i=np.arange(60)[:,None]*2; SO.add(sm,np.stack([np.tile(yb,61)/9.,np.repeat(R*t,2)/9.],1)+r.random(2),np.concatenate([i+[0,1,3],i+[0,3,2]]))
    for s in(-1,1): SD.add([[c+s*R,YF,Z0],[c+s*R,YB,Z0],[c+s*R,YB,ZS],[c+s*R,YF,ZS]],np.array([[0,0],[YB-YF,0],[YB-YF,ZS-Z0],[0,ZS-Z0]])/9.+np.array([r.random(),0]),[[0,1,2],[0,2,3]])
    nv=33
    for q in range(nv):                                                       # voussoirs
        a0,a1=np.pi*q/nv+.0016,np.pi*(q+1)/nv-.0016; key=q==nv//2; ro=R+(.80 if key else .62); y0=YF-(.11 if key else .055)-.008*r.random(); p=[(c+rr*np.cos(a),z) for rr,a in((R-.012,a0),(ro,a0),(ro,a1),(R-.012,a1)) for z in[ZS+rr*np.sin(a)]]; f=[[x,y0,z] for x,z in p]; b=[[x,YF+.35,z] for x,z in p]; o=r.random(2)*5; uv=np.array([[0,0],[.6,0],[.6,.4],[0,.4]])/2.+o
        VO.add(f,uv,[[0,2,1],[0,3,2]])
        for i0,i1 in((0,1),(1,2),(2,3),(3,0)): VO.add([f[i0],f[i1],b[i1],b[i0]],uv*.8,[[0,1,2],[0,2,3]])
    xa,xb=c+R,c+PITCH-R; g=float(land(np.array([(xa+xb)/2]),np.array([YF]))[0])
    ST.box((xa-.15,YF-.15,ZS-.46),(xb+.15,YB+.15,ZS-.16),2.4,rnd=k+20); ST.box((xa-.09,YF-.09,ZS-.16),(xb+.09,YB+.09,ZS),2.4,rnd=k+40)
    zt=max(g,0)+1.7; F.add([[xa-.22,YF-.22,Z0],[xb+.22,YF-.22,Z0],[xb+.22,YF-.22,zt],[xa-.22,YF-.22,zt]],uvf([xa,xb,xb,xa],[Z0,Z0,min(zt,Z1),min(zt,Z1)])+[.013,0],[[0,1,2],[0,2,3]]); ST.box((xa-.27,YF-.27,zt),(xb+.27,YB+.27,zt+.24),2.4,rnd=k)
    for s,x in((-1,xa-.22),(1,xb+.22)): SD.add([[x,YF-.22,Z0],[x,YB+.22,Z0],[x,YB+.22,zt],[x,YF-.22,zt]],np.array([[0,0],[8.6,0],[8.6,zt-Z0],[0,zt-Z0]])/9.,[[0,1,2],[0,2,3]])
fq(X0,ZT+.30,X1,ZP,YF-.03); F.quad([X0,YB,ZT-1],[X1,YB,ZT-1],[X1,YB,ZP],[X0,YB,ZP],400.); 
bkm=M(); bkm.quad([X0,YF,ZT],[X1,YF,ZT],[X1,YB,ZT],[X0,YB,ZT],5.); bkm.quad([X0,YF+.45,ZT],[X1,YF+.45,ZT],[X1,YF+.45,ZP],[X0,YF+.45,ZP],5.)
for k in ks:
    c=cx_(k); v=np.stack([np.concatenate([c+R*np.cos(t),c+R*np.cos(t)]),np.full(122,YB),np.concatenate([ZS+R*np.sin(t),np.full(61,ZT)])],1); i=np.arange(60)[:,None]; bkm.add(v,v[:,[0,2]]/9,np.concatenate([i+[0,1,62],i+[0,62,61]])); bkm.quad([c+R,YB,Z0],[c+PITCH-R,YB,Z0],[c+PITCH-R,YB,ZT],[c+R,YB,ZT],9.)
x=X0; q=0
while x<X1:                                                                    # string course, corbels, coping in separate stones
    w=1.35; ST.box((x+.004,YF-.26,ZT),(x+w-.004,YF+.1,ZT+.32),2.4,rnd=q); ST.box((x+.004,YF-.20,ZP),(x+w-.004,YF+.62,ZC),2.4,rnd=q+7); x+=w; q+=1
for x in np.arange(X0,X1,.675): ST.box((x+.12,YF-.19,ZT-.34),(x+.44,YF+.05,ZT-.002),2.4,rnd=int(x*9)+900)
st,sg=mottled(1024,(.60,.545,.455),71,.11,1.0,(.05,.03,.0),lo=3); stn=ss(.1,2.0,noise(1024,1.5,72,2)); st=st*(1-.42*stn)[...,None]; vt=np.stack([noise(1024,.0,75+0,1,1e9)*0+st[...,q] for q in range(3)],-1)
tl,tlh=ashlar(9.,9.,110,23); tl=tl*(1-.35*ss(.0,2.,noise(1024,1.5,81,2))[:tl.shape[0],:tl.shape[1]])[...,None] if tl.shape[0]<=1024 else tl; br,brh=bricks(2048,40,120,83,(.46,.36,.29),(.50,.47,.42)); br=br*(1-.42*ss(-.3,1.6,noise(2048,1.5,84,2)))[...,None]
sh['face']=F.mesh('face',bump(two(diffuse(fa)),fh,.022)); sh['soff']=SO.mesh('soff',bump(two(diffuse(br)),brh,.008)); sh['side']=SD.mesh('side',bump(two(diffuse(tl)),tlh,.022)); sh['stone']=ST.mesh('stone',bump(two(diffuse(st)),sg,.006)); blk=r.normal(1,.11,(64,64,1)).repeat(16,0).repeat(16,1); sh['vous']=VO.mesh('vous',bump(two(diffuse(np.clip(st*blk*np.array([1.03,1,.95]),0,1))),sg,.008)); sh['back']=bkm.mesh('back',two(diffuse(tl)))
IR=M()                                                                         # drain spouts, tie plates, telegraph poles
for k in ks:
    c=cx_(k)+PITCH/2; IR.cyl((c-.05*k*0,YF+.1,ZT-.62),(c,YF-.34,ZT-.70),.07,.07,12)
    if k%2==0: IR.cyl((c,YF-.0,ZS+2.9),(c,YF-.07,ZS+2.9),.27,.25,24); IR.cyl((c,YF-.07,ZS+2.9),(c,YF-.13,ZS+2.9),.07,.06,12)
sh['iron']=IR.mesh('iron',two(diffuse([.075,.062,.052])))
# --- fence along the left of the track: level rails
FX=-2.35; FN=M(); FP=[]
for j,y in enumerate(np.arange(2.9,47,2.45)): FP.append(y); FN.box((FX-.065,y-.065,-.1),(FX+.065,y+.065,1.66),1.1,'z',rnd=j,yaw=0)
rails=[(.86,.105),(1.16,.105),(1.46,.105)]
for q,(z,h) in enumerate(rails):
    for y0,y1 in zip(FP[:-1],FP[1:]): FN.box((FX+.066,y0-.0,z),(FX+.108,y1,z+h),1.2,'y',rnd=q*40+int(y0))
wt,wg=planks(1024,1,67,(.46,.425,.37)); ms=ss(.5,1.9,noise(1024,1.3,68,4)); wt=wt*(1-.4*ms[...,None])+np.array([.36,.38,.25])*.4*ms[...,None]; sh['fence']=FN.mesh('fence',bump(two(diffuse(wt)),wg,.006))
# --- trees, hedges
LV=[M(),M(),M()]; TK=M(); tz=lambda x,y:float(land(np.array([x]),np.array([y]))[0])
for j,(x,y,h,rd,m) in enumerate(((-31,37,10.5,4.2,0),(-40,33,9,4,1),(-22.5,64,12.5,5,1),(-11.5,72,11,4.4,0),(-36,68,13,5.4,2),(-49,66,13,5.2,0),(31,39,10.5,4.4,2),(40,41,11,4.6,0),(24,66,12.5,4.8,0),(33,72,13,5,1),(45,64,13,5.2,2),(18,84,12,4.6,1),(1.5,96,13,5.2,2),(-20,100,14,5.4,0),(-5,128,13,5,1),(52,76,13,5,0),(-60,58,13,5,1),(60,52,12,5,2),(13,120,12,4.6,0),(-62,40,11,4.6,2),(36,28,7,3.0,1))): tree(LV[m],TK,(x,y,tz(x,y)),h,rd,100+j,.085+.0007*max(y-30,0),42000 if y<60 else 30000,.30,.20)
for j in range(60):                                                            # hedge clumps behind, bushes at pier feet and stream
    y=66+9*r.random(); x=-70+140*j/60+r.normal(0,.5)
    if abs(x-xc(y))<4 or abs(x+.5)<2.2: continue
    clump(LV[j%3],np.array([x,74+.06*x+r.normal(0,.4),tz(x,74)+.8]),1.5+.5*r.random(),3600,.075,r,.8)
for j in range(34):
    s=r.choice([-1,1]); y=14+38*r.random(); x=s*(.52*y+8+14*r.random()); x=x if abs(x-xc(y))>3.2 else x+6; k=.5+.8*r.random(); clump(LV[j%3],np.array([x,y,tz(x,y)+k*.5]),k*1.1,int(2600*k),.042,r,.8)
for j in range(16):
    k=int(r.integers(-4,5)); x=cx_(k)+PITCH/2+r.normal(0,1.6); y=YF-.6-1.0*r.random(); s=.35+.4*r.random(); clump(LV[j%3],np.array([x,y,tz(x,y)+s*.5]),s*1.2,1500,.035,r,.9)
for j in range(330):
    y=95+380*r.random()**1.1; x=(r.random()*2-1)*1.25*y
    if abs(x-xc(min(y,160)))<4: continue
    h=5+6*r.random(); rr=np.random.default_rng(j); m=LV[j%3]
    for q in range(5): clump(m,np.array([x,y,tz(x,y)+h*.45])+rr.normal(0,1,3)*[h*.16,h*.16,h*.18],h*.26,170,.0016*y,rr,.9)
for q,c in enumerate(((.335,.405,.15),(.40,.445,.18),(.29,.37,.16))): sh['lv%d'%q]=LV[q].mesh('lv%d'%q,leafmat(leaftex(c,101+q),.85))
kt,kg=mottled(512,(.27,.24,.20),103,.2,.8); sh['trunk']=TK.mesh('trunk',two(diffuse(kt)))
def prof(a,lo,hi,sl,seed):
    k=np.random.default_rng(seed); f=sum((1/(j**1.3))*np.sin(a*j*2.6+k.random()*6.28) for j in range(1,26)); f=(f-f.min())/(f.max()-f.min()); return lo+(hi-lo)*f+sl*np.abs(a)
def ridge(y0,depth,pr,name,seed,tile):
    nx,ny=800,100; gx=np.linspace(-1.6*y0,1.6*y0,nx); v=np.linspace(0,1,ny); n2=cv2.resize(noise(1024,1.65,seed,3),(nx,512))[:ny*2:2][:ny]; n3=cv2.resize(noise(1024,1.0,seed+5,30),(nx,ny)); Zr=12+pr(gx/y0)[None]*np.sin(np.pi*.5*v[:,None])**1.15*(1+.12*n2*(v[:,None]*(1.25-v[:,None])*2.2))+n3*y0*.0010
    X_=np.repeat(gx[None],ny,0); Y_=np.repeat((y0+v*depth)[:,None],nx,1); m=M(); m.grid(np.stack([X_,Y_,Zr],-1),np.stack([X_/tile,Y_/tile+Zr/tile*1.2],-1)); sh[name]=m.mesh(name,two(diffuse(fieldtex(2048,110,seed))),smooth=True)
ridge(430,330,lambda a:prof(a,26,78,20,5),'r1',121,700.); ridge(950,600,lambda a:prof(a,95,215,20,12),'r2',131,1300.); ridge(2300,1300,lambda a:prof(a,210,430,-40,29),'r3',141,2600.)
env,hz,d,_=sky(-122,27,3.4,cover=.10,cloud_scale=.60,seed=33,sun_lum=3.3,sky_scale=1.05); sh['env']=envmap(env)
Wr,Hr=int(round(W*OVER*RS)),int(round(H*OVER*RS)); sc=dict(sh); sc['sensor']=cam.sensor(Wr,Hr,OVER); print('setup %.0fs'%(time.time()-t00),Wr,Hr,flush=True)
a,info=render(sc,Wr,Hr,SPP,2,6,log=1); dn,td=denoise(a); info['oidn_s']=round(td,1); info['truth_check']=poscheck(None,cam,a,OVER,Wr,Hr)
t=time.time(); dep=a[...,9]; zz=a[...,-1]; hzc=np.array(hz)*.40+np.array([.36,.40,.46]); mist=1+.8*np.exp(-np.maximum(zz,0)/14.); haze=1-np.exp(-np.where(dep>0,dep,0)/1900*mist); lin=dn*(1-haze[...,None])+hzc*haze[...,None]
# wide pinhole -> barrel; beyond RV straight continuation of the inverse radius
k=W/3000; yy,xx=np.mgrid[0:H,0:W]; dx,dy=((xx+.5)/k-cam.cx)/cam.hd,((yy+.5)/k-cam.cy)/cam.hd; rd=np.hypot(dx,dy); q=np.minimum(rd,RV); ru=q.copy()
for _ in range(40): ru=np.minimum(ru-(ru*(1+K1*ru*ru)-q)/(1+3*K1*ru*ru),1.32)
ru=ru+1.5*np.maximum(rd-RV,0); g=ru/np.maximum(rd,1e-9); mx=(dx*g*cam.hd*k*RS+Wr/2-.5).astype(np.float32); my=(dy*g*cam.hd*k*RS+Hr/2-.5).astype(np.float32); print('remap reach',mx.min(),mx.max(),my.min(),my.max(),Wr,Hr)
lin=np.maximum(cv2.remap(lin.astype(np.float32),mx,my,cv2.INTER_LANCZOS4,borderMode=cv2.BORDER_REFLECT),0); depd=cv2.remap(np.ascontiguousarray(dep),mx,my,cv2.INTER_NEAREST)
print('linear mean',lin.mean((0,1)),'hz',hzc)
DEV=dict(expo=1.78,seed=2,wb=(1.01,1,1.01),vig=.24,contrast=1.06,sharp=.30,sat=.88)
img=develop(lin,**DEV); info['post_s']=round(time.time()-t,1); info['script_s']=round(time.time()-t00,1)
E=lambda k:cx_(k)+R; Ls=[]
for j,(x,n) in enumerate(((E(-3)+PITCH-2*R,'pier -3 right'),(E(-2)+PITCH-2*R,'pier -2 right'),(E(-1)+PITCH-2*R,'pier -1 right'),(E(0),'pier 0 left'),(E(1),'pier 1 left'),(E(2),'pier 2 left'))):
    g=max(tz(x,YF),0)+3.2; Ls.append((f'v{j+1} {n} front edge','vertical',(x,YF,g),(x,YF,ZS-.46)))
Ls+=[(f'v{9+j} fence post {i} front right edge','vertical',(FX+.065,FP[i]-.065,.62),(FX+.065,FP[i]-.065,1.66)) for j,i in enumerate((1,2,3))]
Ls+=[('h1 coping top front edge','horizontal-facing',(X0,YF-.20,ZC),(X1,YF-.20,ZC)),('h2 coping lower front edge','horizontal-facing',(X0,YF-.20,ZP),(X1,YF-.20,ZP)),('h3 string course top front edge','horizontal-facing',(X0,YF-.26,ZT+.32),(X1,YF-.26,ZT+.32)),('h4 string course lower front edge','horizontal-facing',(X0,YF-.26,ZT),(X1,YF-.26,ZT))]
Ls+=[(f'h{5+j} impost lower front edge, pier {k}','horizontal-facing',(E(k)-.15,YF-.15,ZS-.46),(E(k)+PITCH-2*R+.15,YF-.15,ZS-.46)) for j,k in enumerate((-3,2))]
Ls+=[('r1 fence top rail, upper right edge','horizontal-receding',(FX+.108,FP[0],1.565),(FX+.108,FP[-1],1.565)),('r2 fence middle rail, upper right edge','horizontal-receding',(FX+.108,FP[0],1.265),(FX+.108,FP[-1],1.265)),('r3 fence low rail, upper right edge','horizontal-receding',(FX+.108,FP[0],.965),(FX+.108,FP[-1],.965))]
Ls+=[(f'r{4+j} impost lower edge on the {s} of pier {k}','horizontal-receding',(x,YF-.15,ZS-.46),(x,YB+.15,ZS-.46)) for j,(k,s,x) in enumerate(((-3,'right',E(-3)+PITCH-2*R+.15),(2,'left',E(2)-.15),(3,'left',E(3)-.15)))]
lines=truth(cam,Ls,depd)
for l in lines:
    if l['bow_px']>=4: l['also']='curved-by-lens'
cv2.imwrite(OUT+'_look.png',cv2.resize(img[...,::-1],(1280,853),interpolation=cv2.INTER_AREA))
fl_,f35=save(img,OUT+'.jpg',cam,'2026:05:09 07:48:21')
json.dump(dict(place='the Wendlow valley (invented)',scene='stone railway viaduct, very wide angle, soft morning',width=3000,height=2000,roll_deg=1.10,pitch_deg=7.,yaw_deg=0.,hfov_deg=88.,hfov_note='of the ideal pinhole before the barrel distortion: f_px = 1500/tan(44 deg)',f_px=cam.f,f_mm=round(fl_,3),f35_mm=round(f35,3),principal_point=[1500,1000],
 distortion=dict(model='Brown-Conrady, k1 only',k1=K1,unit='r = distance from the centre / half the picture diagonal (1802.776 px)',forward='recorded = ideal*(1+k1*r_ideal^2)',valid_recorded_radius=RV,fold_recorded_radius=round(2/3/math.sqrt(-3*K1),4),note='with k1 = -0.16 no ideal point lands beyond a recorded radius of 0.9623 half diagonals; pixels beyond 0.94 (extreme corners, under 1 % of the picture) are filled by a straight continuation and follow no law; no truth line enters them'),k1_in_focal_units=K1*(cam.f/cam.hd)**2,signs='yaw+ right, pitch+ up, roll+ camera turned clockwise seen from behind (level lines run UP to the right in the picture)',camera_pos=[0,0,2.2],lines=lines,render=info),open(OUT+'.json','w'),indent=1)
print(info); [print(l['id'],l['kind'],l['bow_px'],l['visible_fraction']) for l in lines]
