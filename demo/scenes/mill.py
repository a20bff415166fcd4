"""The grain mill, front: walls that lean, not square-on, bent by the lens.  Usage: run.sh mill.py OUT WIDTH SAMPLES"""
import sys; from common import *
OUT,W,SPP=sys.argv[1],int(sys.argv[2]),int(sys.argv[3]); H=W*2//3
cam=Cam((0,0,1.65),12,16,-1.2,74,3000,2000,k1=-.08); OVER=1.13
Y=14.0; X0,X1=-13.0,14.5; FL=[0,3.5,6.6,9.5,12.2]; TOP=13.1     # wall plane, floor levels, parapet top
r=np.random.default_rng(4); sh={}
brk,bh=bricks(base=(.54,.335,.25),mortar=(.60,.56,.50)); TB=14.4
wx=[-11.2,-8.2,-5.2,-2.2,.8,3.8,6.8,9.8,12.4]; ww,wh=1.25,1.75
DO=(0.8-1.1,0.8+1.1,0.0,2.75)                                     # door opening
ops=[]
for k in range(4):
    for i,x in enumerate(wx):
        if k==0 and i==4: ops.append(DO+(k,i)); continue
        if i==6 and k in(1,2,3): ops.append((x-.75,x+.75,FL[k]+.25,FL[k]+2.35,k,i)); continue     # loading doors
        h=wh if k<3 else 1.45; ops.append((x-ww/2,x+ww/2,FL[k]+.95,FL[k]+.95+h,k,i))
# --- brick front with openings
wall=M(); xs=sorted({X0,X1,*[o[0] for o in ops],*[o[1] for o in ops]}); zs=sorted({0.,TOP,*[o[2] for o in ops],*[o[3] for o in ops]})
for a,b in zip(xs[:-1],xs[1:]):
    for c,d in zip(zs[:-1],zs[1:]):
        mx,mz=(a+b)/2,(c+d)/2
        if any(o[0]<mx<o[1] and o[2]<mz<o[3] for o in ops): continue
        wall.add([[a,Y,c],[b,Y,c],[b,Y,d],[a,Y,d]],np.array([[a,c],[b,c],[b,d],[a,d]])/TB+.5,[[0,1,2],[0,2,3]])
D=.24
for o in ops:
    a,b,c,d=o[:4]
    for x,n in((a,1),(b,-1)): wall.add([[x,Y,c],[x,Y+D,c],[x,Y+D,d],[x,Y,d]],np.array([[x,c],[x+D,c],[x+D,d],[x,d]])/TB+.5,[[0,1,2],[0,2,3]])
    wall.add([[a,Y,d],[b,Y,d],[b,Y+D,d],[a,Y+D,d]],np.array([[a,d],[b,d],[b,d+D],[a,d+D]])/TB+.5,[[0,1,2],[0,2,3]])
wall.add([[X1,Y,0],[X1,Y+9,0],[X1,Y+9,TOP],[X1,Y,TOP]],np.array([[0,0],[9,0],[9,TOP],[0,TOP]])/TB,[[0,1,2],[0,2,3]])
sh['wall']=wall.mesh('wall',bump(two(diffuse(brk)),bh,.009))
# --- soldier-course brick lintels (textured on edge), stone sills, string courses, plinth, coping
st,sg=mottled(1024,(.70,.65,.56),11,.10,1.0,lo=3); stain=ss(.3,2.2,noise(1024,1.6,14,2)); st=st*(1-.35*stain)[...,None]
stone=M(); lint=M()
for o in ops:
    a,b,c,d,k,i=o
    if not(i==6 and k>0) and not(k==0 and i==4): stone.box((a-.10,Y-.09,c-.16),(b+.10,Y+D,c),2.3,rnd=3)
    if k==0 and i==4: stone.box((a-.28,Y-.10,0),(a,Y+.1,d+.02),2.3,'z'); stone.box((b,Y-.10,0),(b+.28,Y+.1,d+.02),2.3,'z'); stone.box((a-.38,Y-.16,d),(b+.38,Y+.1,d+.42),2.3); stone.box((a-.45,Y-.26,d+.42),(b+.45,Y+.1,d+.54),2.3)
    else:
        n=int((b-a+.24)/.078); w=(b-a+.24)/n
        for q in range(n):
            sl=(q-(n-1)/2)/n*.16; x=a-.12+q*w; lint.add([[x+.004,Y-.012,d],[x+w-.004,Y-.012,d],[x+w-.004+sl,Y-.012,d+.23],[x+.004+sl,Y-.012,d+.23]],np.array([[.01,.02],[.01,.02],[.01,.03],[.01,.03]])*r.random()*9+r.random(2),[[0,1,2],[0,2,3]])
for k in(1,2,3):
    stone.box((X0,Y-.07,FL[k]-.24),(X1+.07,Y+.05,FL[k]-.02),2.3,rnd=k); stone.box((X0,Y-.11,FL[k]-.02),(X1+.11,Y+.05,FL[k]+.05),2.3,rnd=k)
stone.box((X0,Y-.16,FL[4]+.05),(X1+.16,Y+.1,FL[4]+.25),2.3); stone.box((X0,Y-.10,FL[4]-.06),(X1+.10,Y+.1,FL[4]+.05),2.3)
x=X0
for q in range(20): w=1.45; stone.box((x+.004,Y-.10,TOP),(min(x+w,X1+.1)-.004,Y+.42,TOP+.14),2.3,rnd=q); x+=w
x=X0
while x<X1:                                                        # plinth blocks
    w=.75+.3*r.random()
    for z0,z1 in((0,.33),(.335,.62)):
        xa=x+(.3 if z0 else 0); xb=min(xa+w-.008,X1)
        if xb>xa+.05 and not(xb>DO[0]-.3 and xa<DO[1]+.3): stone.box((xa,Y-.06,z0),(xb,Y+.05,z1),2.3,rnd=int(x*9))
    x+=w
sh['stone']=stone.mesh('stone',bump(two(diffuse(st)),sg,.004))
lt,lg=mottled(1024,(.52,.31,.23),31,.16,1.4); sh['lint']=lint.mesh('lint',two(diffuse(lt)))
# --- windows
fr=M(); gl=M(); cu=M(); dk=M(); ld=M()
for o in ops:
    a,b,c,d,k,i=o
    if k==0 and i==4:
        for q in range(2):
            xa=a+q*(b-a)/2; ld.box((xa+.02,Y+.14,.05),(xa+(b-a)/2-.02,Y+.2,2.1),1.0,'z',rnd=q)
            for z in(.3,1.1,1.85): ld.box((xa+.05,Y+.11,z),(xa+(b-a)/2-.05,Y+.15,z+.15),1.0,'x',rnd=q)
        fr.box((a,Y+.1,2.1),(b,Y+.2,2.2),1.2)
        for q in range(5): xq=a+q*(b-a)/4; fr.box((xq-.025,Y+.12,2.2),(xq+.025,Y+.2,d),1.2,'z')
        gl.quad([a,Y+.17,2.2],[b,Y+.17,2.2],[b,Y+.17,d],[a,Y+.17,d]); dk.quad([a,Y+.6,2.2],[b,Y+.6,2.2],[b,Y+.6,d],[a,Y+.6,d]); continue
    if i==6 and k>0:
        ld.box((a+.02,Y+.10,c),( (a+b)/2-.01,Y+.16,d-.02),1.0,'z',rnd=k); ld.box(((a+b)/2+.01,Y+.10,c),(b-.02,Y+.16,d-.02),1.0,'z',rnd=k+9)
        for z in(c+.25,c+1.05,d-.4): ld.box((a+.06,Y+.07,z),((a+b)/2-.05,Y+.11,z+.14),1.0,'x',rnd=1); ld.box(((a+b)/2+.05,Y+.07,z),(b-.06,Y+.11,z+.14),1.0,'x',rnd=2)
        stone.box((a-.1,Y-.2,c-.12),(b+.1,Y+D,c),2.3); continue
    y=Y+.13; t=.07
    for lo,hi,g in(((a,y,c),(a+t,y+.08,d),'z'),((b-t,y,c),(b,y+.08,d),'z'),((a,y,c),(b,y+.08,c+.09),'x'),((a,y,d-t),(b,y+.08,d),'x'),((a,y-.02,(c+d)/2-.03),(b,y+.07,(c+d)/2+.03),'x')): fr.box(lo,hi,1.2,g,rnd=i)
    nx,nz=3,4; wx_=(b-a-2*t)/nx; wz=(d-c-t-.09)/nz
    for q in range(1,nx): fr.box((a+t+q*wx_-.014,y+.02,c+.05),(a+t+q*wx_+.014,y+.06,d-.05),1.2,'z')
    for q in range(1,nz): fr.box((a+t,y+.02,c+.09+q*wz-.014),(b-t,y+.06,c+.09+q*wz+.014),1.2,'x')
    for q in range(nx):
        for p in range(nz):
            xa=a+t+q*wx_; za=c+.09+p*wz; e=r.normal(0,.0022,4); gl.add([[xa,y+.045+e[0],za],[xa+wx_,y+.045+e[1],za],[xa+wx_,y+.045+e[2],za+wz],[xa,y+.045+e[3],za+wz]],np.zeros((4,2)),[[0,1,2],[0,2,3]])
    dk.quad([a,Y+.9,c],[b,Y+.9,c],[b,Y+.9,d],[a,Y+.9,d])
    if r.random()<.5: hh=(d-c)*(.2+.5*r.random()); cu.quad([a,Y+.26,d-hh],[b,Y+.26,d-hh],[b,Y+.26,d],[a,Y+.26,d],1.)
    for xx in(a,b): dk.quad([xx,Y+D,c],[xx,Y+.9,c],[xx,Y+.9,d],[xx,Y+D,d])
pt,pg=planks(1024,1,61,(.80,.79,.74)); sh['fr']=fr.mesh('fr',two(princ(pt,.45,.4)))
sh['gl']=gl.mesh('gl',{'type':'thindielectric','int_ior':1.9})
sh['cu']=cu.mesh('cu',two(diffuse([.50,.47,.40]))); sh['dk']=dk.mesh('dk',two(diffuse([.035,.033,.03])))
dt,dg=planks(1024,8,63,(.16,.27,.24)); sh['ld']=ld.mesh('ld',bump(two(princ(np.rot90(dt).copy(),.5,.35)),np.rot90(dg).copy(),.004))
# --- lucam (hoist house) projecting over the loading doors: timber, slate pent roof -> receding horizontals
lu=M(); LX0,LX1,LY,LZ0,LZ1=5.55,8.05,Y-1.7,FL[3]+2.62,TOP+1.0
lb=M(); nb=16; bh_=(LZ1-LZ0)/nb
for q in range(nb):
    z=LZ0+q*bh_
    lb.box((LX0,LY-.012*(q%2),z+.004),(LX1,LY+.05,z+bh_-.004),1.4,'x',rnd=q)
    for xx in(LX0,LX1-.05): lb.box((xx-.01*(q%2),LY,z+.004),(xx+.05,Y+.3,z+bh_-.004),1.4,'y',rnd=q+50)
lb.box((LX0-.06,LY-.06,LZ0-.16),(LX0+.1,Y,LZ0),1.4,'y'); lb.box((LX1-.1,LY-.06,LZ0-.16),(LX1+.06,Y,LZ0),1.4,'y'); lb.box((LX0-.06,LY-.07,LZ0-.16),(LX1+.06,LY+.1,LZ0),1.4,'x'); lb.box((LX0,LY,LZ0),(LX1,Y,LZ0+.04),1.4,'y')
for xx in(LX0+.08,LX1-.08): lb.cyl((xx,Y,LZ0-1.6),(xx,Y-1.45,LZ0-.12),.11,.11,4,1.4); lb.box((xx-.07,Y-.1,LZ0-1.8),(xx+.07,Y+.02,LZ0),1.4,'z')
wt,wg=planks(1024,1,71,(.78,.76,.70)); sh['lu']=lb.mesh('lu',bump(two(diffuse(wt)),wg,.003))
rf=M(); 
rf.quad([LX0-.2,LY-.25,LZ1-.05],[LX1+.2,LY-.25,LZ1-.05],[LX1+.2,Y+2,LZ1+1.3],[LX0-.2,Y+2,LZ1+1.3],1.)
rf.box((LX0-.2,LY-.27,LZ1-.12),(LX1+.2,LY-.22,LZ1-.02))
# right neighbour: lower brick wing projecting forward; its flank recedes
NX,NY0,NZ=14.5,7.0,5.2; nbk=M()
nbk.add([[NX,NY0,0],[NX,Y,0],[NX,Y,NZ],[NX,NY0,NZ]],np.array([[0,0],[Y-NY0,0],[Y-NY0,NZ],[0,NZ]])/TB+.21,[[0,1,2],[0,2,3]]); nbk.add([[NX,NY0,0],[NX+9,NY0,0],[NX+9,NY0,NZ],[NX,NY0,NZ]],np.array([[0,0],[9,0],[9,NZ],[0,NZ]])/TB+.4,[[0,1,2],[0,2,3]])
b2,bh2=bricks(2048,32,96,91,(.62,.38,.25)); nbk.t=[t*2 for t in nbk.t]; sh['nb']=nbk.mesh('nb',bump(two(diffuse(b2)),bh2,.009))
tl=M()
for q in range(22):
    s0,s1=q*.2,(q+1)*.2+.03; z=lambda s: NZ-.05+s*.62
    n=int((Y-NY0+.5)/.26)
    for p in range(n):
        yy=NY0-.25+p*.26+(q%2)*.13; j=r.normal(0,.004); tl.box((NX-.28+s0*.78,yy+.004,z(s0)+.012+j),(NX-.28+s1*.78,yy+.256,z(s0)+.030+j),.9,rnd=q*50+p)
tl_t,tl_g=mottled(1024,(.36,.30,.29),77,.16,1.2); sh['tl']=tl.mesh('tl',two(princ(tl_t,.55,.3))); sh['rf']=rf.mesh('rf',two(princ(tl_t,.5,.3)))
me=M()
# gutters, downpipes, brackets
PX=11.05
me.cyl((PX,Y-.14,.15),(PX,Y-.14,FL[4]-.1),.055,n=24); 
for z in np.arange(.8,12,1.83): me.box((PX-.11,Y-.1,z),(PX+.11,Y-.0,z+.06)); me.cyl((PX,Y-.14,z-.04),(PX,Y-.14,z+.1),.068,n=24)
me.box((PX-.2,Y-.32,FL[4]-.28),(PX+.2,Y-.02,FL[4]+.05)); me.cyl((NX-.30,NY0-.3,NZ-.1),(NX-.30,Y-.1,NZ-.1),.075,n=20)
# street lamp
LXp,LYp=-3.05,8.4
me.cyl((LXp,LYp,0),(LXp,LYp,.9),.11,.10,24); me.cyl((LXp,LYp,.9),(LXp,LYp,4.0),.055,.042,24); me.cyl((LXp,LYp,.9),(LXp,LYp,.98),.14,.09,24); me.cyl((LXp,LYp,0),(LXp,LYp,.16),.19,.17,24)
me.cyl((LXp-.36,LYp,3.72),(LXp+.36,LYp,3.72),.02,n=12); me.cyl((LXp,LYp,3.98),(LXp,LYp,4.04),.17,.19,24)
for q in range(4): a=q*np.pi/2+.78; me.cyl((LXp+.17*np.cos(a),LYp+.17*np.sin(a),4.04),(LXp+.25*np.cos(a),LYp+.25*np.sin(a),4.55),.014,n=8)
me.cyl((LXp,LYp,4.55),(LXp,LYp,4.60),.28,.28,4+20); me.cyl((LXp,LYp,4.60),(LXp,LYp,4.86),.25,.05,24); me.cyl((LXp,LYp,4.86),(LXp,LYp,5.0),.03,.01,12)
lg=M(); 
lg.cyl((LXp,LYp,4.06),(LXp,LYp,4.54),.165,.235,4*6,cap=False); sh['lg']=lg.mesh('lg',{'type':'thindielectric','int_ior':1.5}); lgi=M(); lgi.cyl((LXp,LYp,4.1),(LXp,LYp,4.34),.05,.05); sh['lgi']=lgi.mesh('lgi',two(diffuse([.75,.72,.62])))
# hoist chain + hook
for q in range(60): z=LZ0-.16-q*.07; me.cyl((6.8+(.012 if q%2 else 0),LY+.5,z),(6.8-(.012 if q%2 else 0),LY+.5,z-.075),.012,n=8)
mt,mg=mottled(512,(.085,.09,.085),41,.22,1.2); sh['me']=me.mesh('me',two(princ(mt,.38,.5)),smooth=False)
# --- painted sign
sg_=np.ones((256,3072,3),np.float32)*np.array([.86,.82,.70]); im=np.zeros((256,3072),np.uint8)
cv2.putText(im,'WENDLOW  VALLEY  GRAIN  MILL',(120,178),cv2.FONT_HERSHEY_TRIPLEX,5.05,255,16,cv2.LINE_AA)
m=(im/255.)*(1-.55*ss(.5,1.8,noise(4096,1.1,8,6)[:256,:3072])); sg_=sg_*(1-m[...,None])+np.array([.11,.16,.15])*m[...,None]; sg_*=(1+.05*noise(4096,1.3,9,3)[:256,:3072]-.22*ss(.6,2,noise(4096,1.6,10,2)[:256,:3072]))[...,None]
S=M(); sx0,sx1=-5.9,3.6
sz0,sz1=FL[2]+.15,FL[2]+.67; S.add([[sx0,Y-.045,sz0],[sx1,Y-.045,sz0],[sx1,Y-.045,sz1],[sx0,Y-.045,sz1]],[[0,1],[1,1],[1,0],[0,0]],[[0,1,2],[0,2,3]])   # bitmap row 0 is v=0
sh['sign']=S.mesh('sign',two(diffuse(sg_)))
fb=M(); fb.box((sx0-.05,Y-.06,sz0-.05),(sx1+.05,Y-.03,sz0)); fb.box((sx0-.05,Y-.06,sz1),(sx1+.05,Y-.03,sz1+.05)); sh['fb']=fb.mesh('fb',two(diffuse([.07,.10,.09])))
# --- ground: setts, kerb, flagstones
pv,ph=bricks(2048,10,16,51,(.42,.41,.39),(.24,.22,.20)); g=M()
g.add([[-60,-25,0],[60,-25,0],[60,11.2,0],[-60,11.2,0]],np.array([[-60,-25],[60,-25],[60,11.2],[-60,11.2]])/2.2,[[0,1,2],[0,2,3]]); sh['gr']=g.mesh('gr',bump(two(diffuse(pv)),ph,.02))
kb=M(); x=-30.
while x<30: w=.9; kb.box((x+.005,11.2,-.1),(x+w-.005,11.42,.13),2.,rnd=int(x*10)); x+=w
kt,kg=mottled(1024,(.52,.50,.47),55,.12,1.); sh['kb']=kb.mesh('kb',bump(two(diffuse(kt)),kg,.003))
fl=M(); 
for p,(ya,yb) in enumerate(((11.43,12.3),(12.31,13.15),(13.16,14.05))):
    x=-30.+p*.4
    while x<30: w=.8+.5*r.random(); fl.box((x+.006,ya,-.1),(x+w-.006,yb,.115+r.normal(0,.003)),2.,rnd=int(x*10)); x+=w
ft,fg=mottled(1024,(.56,.53,.47),57,.12,1.); sh['fl']=fl.mesh('fl',bump(two(diffuse(ft)),fg,.004))
# --- greenery: creeper on the left, tubs by the door, weeds at the wall foot, roadside tree behind left
iv=M(); n=14000; hx=r.random(n)**1.3; px=X0+.2+hx*6.2+r.normal(0,.25,n); top=(7.2-6.2*hx)*(1+.22*np.sin(px*3.1)+.12*np.sin(px*7.7)); pz=top*r.random(n)**.75
ok=np.ones(n,bool)
for o in ops: ok&=~((px>o[0]+.12)&(px<o[1]-.12)&(pz>o[2]+.12)&(pz<o[3]-.05))
P=np.stack([px,Y-.03-.16*r.random(n)*(.5+r.random(n)),pz],1)[ok]; n=len(P)
a=r.standard_normal((n,3))*.55+[0,0,-.8]; a[:,1]*=.5; a/=np.linalg.norm(a,axis=1,keepdims=True); b=np.cross(a,[0,1,.2]+r.standard_normal((n,3))*.25); b/=np.linalg.norm(b,axis=1,keepdims=True); s=(.06+.07*r.random(n))[:,None]
v=np.stack([P-a*s*.6,P+b*s*.7,P+a*s,P-b*s*.7],1).reshape(-1,3); i=np.arange(n)[:,None]*4; iv.add(v,np.repeat(r.random((n,2)),4,0),np.concatenate([i+[0,1,2],i+[0,2,3]]))
tu=M()
for xx in(-.95,2.55):
    tu.cyl((xx,Y-.75,.11),(xx,Y-.75,.62),.26,.33,24,1.); leaves(iv,np.array([xx,Y-.75,1.0]),.46,2600,.06,int(xx*10)%97)
w=np.stack([r.random(2500)*(X1-X0)+X0,Y-.07-.05*r.random(2500),np.full(2500,.11)],1); w=w[np.sin(w[:,0]*5)+np.sin(w[:,0]*2.3)>.5]; blades(iv,w,.06,.28,5,.006)
gt,gg=mottled(512,(.22,.34,.10),21,.28,.4,(.07,.02,-.01)); sh['iv']=iv.mesh('iv',two(diffuse(gt)))
tt,tg=planks(512,1,23,(.42,.29,.18)); sh['tu']=tu.mesh('tu',two(diffuse(tt)))
# things behind the camera so that the glass has something to reflect
bk=M(); 
for q in range(9): x=-40+q*9; h=6+4*r.random(); bk.box((x,-22,0),(x+8.6,-16,h),TB)
sh['bk']=bk.mesh('bk',two(diffuse(brk)))
tre=M(); rr=np.random.default_rng(2)
for q in range(7): leaves(tre,np.array([-19+rr.normal(0,1.6),Y-2+rr.normal(0,1.2),8.2+rr.normal(0,1.6)]),2.3,5200,.13,q)
for q in range(6): leaves(tre,np.array([-19+rr.normal(0,1.5),3.0+rr.normal(0,1.5),12.+rr.normal(0,1.5)]),1.7,2300,.16,q+20)   # off frame: dapples the wall
sh['tre']=tre.mesh('tre',two(diffuse(gt)))
env,hz,d,_=sky(-128,36,3.,cover=.05,cloud_scale=.62,seed=15,sun_lum=3.6)
sh['env']=envmap(env)
Wr,Hr=int(round(W*OVER)),int(round(H*OVER)); sc=dict(sh); sc['sensor']=cam.sensor(Wr,Hr,OVER)
a,info=render(sc,Wr,Hr,SPP,2,7,log=1); dn,td=denoise(a); info['oidn_s']=round(td,1); info['truth_check']=poscheck(None,cam,a,OVER,Wr,Hr)
lin=dn; dep=a[...,9]; haze=1-np.exp(-np.where(dep>0,dep,0)/900); lin=lin*(1-haze[...,None])+hz*haze[...,None]*.9
# remap wide pinhole -> barrel (Brown-Conrady k1, r normalised by half the diagonal of the final frame)
t=time.time(); k=W/3000; yy,xx=np.mgrid[0:H,0:W]; ux,uy=cam.undistort_grid((xx+.5)/k,(yy+.5)/k)
mx=((ux-cam.cx)*k+Wr/2-.5).astype(np.float32); my=((uy-cam.cy)*k+Hr/2-.5).astype(np.float32)
print('remap reach',mx.min(),mx.max(),my.min(),my.max(),Wr,Hr)
lin=cv2.remap(lin.astype(np.float32),mx,my,cv2.INTER_LANCZOS4,borderMode=cv2.BORDER_REFLECT); lin=np.maximum(lin,0); depd=cv2.remap(np.ascontiguousarray(dep),mx,my,cv2.INTER_NEAREST)
img=develop(lin,expo=1.12,seed=2,wb=(1.02,1,.97)); info['post_s']=round(time.time()-t,1)
L=[]
for j,(i,s) in enumerate(((2,0),(3,1),(5,0),(7,1))): o=[q for q in ops if q[4]==1 and q[5]==i][0]; x=o[s]; L.append((f'v{j+1} window jamb storey 2 column {i+1}','vertical',(x,Y,o[2]),(x,Y,o[3])))
L+=[('v5 lamp post axis','vertical',(LXp,LYp-.05,.98),(LXp,LYp-.045,3.95)),('v6 downpipe axis','vertical',(PX,Y-.195,.2),(PX,Y-.195,FL[4]-.3)),('v7 corner of the wing and the mill','vertical',(NX,Y,.2),(NX,Y,NZ-.2)),('v8 lucam left front edge','vertical',(LX0,LY,LZ0),(LX0,LY,LZ1)),('v9 door surround left','vertical',(DO[0]-.28,Y-.1,.2),(DO[0]-.28,Y-.1,DO[3])),
 ('h1 string course 1 lower edge','horizontal-facing',(X0,Y-.07,FL[1]-.24),(X1,Y-.07,FL[1]-.24)),('h2 string course 2 lower edge','horizontal-facing',(X0,Y-.07,FL[2]-.24),(X1,Y-.07,FL[2]-.24)),('h3 string course 3 lower edge','horizontal-facing',(X0,Y-.07,FL[3]-.24),(X1,Y-.07,FL[3]-.24)),
 ('h4 coping top front edge','horizontal-facing',(X0,Y-.10,TOP+.14),(X1,Y-.10,TOP+.14)),('h5 kerb top edge','horizontal-facing',(-20,11.2,.13),(14.5,11.2,.13)),('h6 cornice lower edge','horizontal-facing',(X0,Y-.16,FL[4]+.05),(X1,Y-.16,FL[4]+.05)),
 ('r1 lucam floor beam left lower edge','horizontal-receding',(LX0-.06,LY-.07,LZ0-.16),(LX0-.06,Y,LZ0-.16)),('r2 wing gutter axis','horizontal-receding',(NX-.375,NY0-.3,NZ-.1),(NX-.375,Y-.1,NZ-.1)),('r3 wing wall foot','horizontal-receding',(NX,NY0,.115),(NX,Y,.115)),('r4 lucam right floor beam','horizontal-receding',(LX1+.06,LY-.07,LZ0-.16),(LX1+.06,Y,LZ0-.16))]
lines=truth(cam,L,depd)
for l in lines:
    if l['bow_px']>=4: l['also']='curved-by-lens'
cv2.imwrite(OUT+'_look.png',cv2.resize(img[...,::-1],(1280,853),interpolation=cv2.INTER_AREA))
fl_,f35=save(img,OUT+'.jpg',cam,'2026:06:14 15:42:10')
json.dump(dict(place='the Wendlow valley (invented)',scene='B grain mill front',width=3000,height=2000,roll_deg=-1.2,pitch_deg=16.,yaw_deg=12.,hfov_deg=74.,hfov_note='of the ideal pinhole before the barrel distortion: f_px = 1500/tan(37 deg)',f_px=cam.f,f_mm=round(fl_,3),f35_mm=round(f35,3),principal_point=[1500,1000],
 distortion=dict(model='Brown-Conrady, k1 only',k1=-.08,unit='r = distance from the centre / half the picture diagonal (1802.776 px)',forward='recorded = ideal*(1+k1*r_ideal^2)'),k1_in_focal_units=-.08*(cam.f/cam.hd)**2,signs='yaw+ right, pitch+ up, roll+ camera turned clockwise seen from behind',camera_pos=[0,0,1.65],lines=lines),open(OUT+'.json','w'),indent=1)
print(info); [print(l['id'],l['kind'],l['bow_px'],l['visible_fraction']) for l in lines]
