"""The reservoir shore at low sun: a tilted far waterline, and a jetty rail that runs away.  Usage: run.sh shore.py OUT WIDTH SAMPLES"""
import sys; from common import *
OUT,W,SPP=sys.argv[1],int(sys.argv[2]),int(sys.argv[3]); H=W*2//3
cam=Cam((0,0,2.55),0,-3,2.30,60,3000,2000); r=np.random.default_rng(7); sh={}
SHORE=1800.
# --- water: projected-style grid, waves faded where the grid cannot carry them, gust patches
NR,NC=1000,800; y=2.5*(SHORE/2.5)**(np.linspace(0,1,NR)); y[-1]=SHORE; xr=np.linspace(-.85,.85,NC); X=y[:,None]*xr+0*xr; Yg=np.repeat(y[:,None],NC,1); dy=np.gradient(y)[:,None]
Z=np.zeros_like(X); wind=math.radians(62); gn=noise(1024,1.6,3,2)
gust=.70+.55*np.clip(cv2.remap(gn,((X*2.2)%1024).astype(np.float32),((Yg*5.)%1024).astype(np.float32),cv2.INTER_LINEAR,borderMode=cv2.BORDER_WRAP),-1,1.6)
for q in range(90):
    lam=.22*(28**r.random()); a=wind+r.normal(0,.55); k=2*np.pi/lam; am=.0034*lam**.80*r.uniform(.5,1.3); fade=ss(2.2,5.5,lam/dy)
    ph=k*(X*math.cos(a)+Yg*math.sin(a))+r.random()*6.28+.6*np.sin(X*.31+q)+.5*np.sin(Yg*.23+2*q); Z+=am*(np.sin(ph)+.18*np.sin(2*ph+1.2))*fade
Z*=gust; Z[-1]=0
w=M(); w.grid(np.stack([X,Yg,Z],-1),np.stack([X,Yg],-1)*.1)
sh['water']=w.mesh('water',two({'type':'roughplastic','int_ior':1.33,'alpha':.03,'nonlinear':False,'diffuse_reflectance':{'type':'rgb','value':[.018,.034,.034]}}),smooth=True)
bed=M(); bed.quad([-1700,-30,-1.5],[1700,-30,-1.5],[1700,2200,-1.5],[-1700,2200,-1.5]); sh['bed']=bed.mesh('bed',two(diffuse([.03,.04,.03])))
# --- near land: bank at the bottom, promontory on the left with the boathouse
nz=noise(1024,1.7,21,2); nf=noise(1024,1.0,22,24)
def nlook(n,x,yv,s):
    from scipy.ndimage import map_coordinates      # cv2.remap refuses sides over 32767
    return map_coordinates(n,[np.asarray(yv,float)*s,np.asarray(x,float)*s],order=1,mode='grid-wrap')
def land(x,yv):
    x=np.asarray(x,float);yv=np.asarray(yv,float); sh1=x.shape; x2=np.atleast_2d(x);y2=np.atleast_2d(yv)
    ys=7.6+25*ss(-5.0,-9.5,x2)+1.2*nlook(nz,x2,y2,9)+1.4*ss(4,10,x2)
    d=ys-y2; z=np.where(d>0,.10*d,.16*d); z=np.minimum(z,.55+.05*d)+.05*nlook(nz,x2+5,y2,22)+.018*nlook(nf,x2,y2,60)*ss(-.5,.6,d)
    return np.clip(z,-1.4,1.8).reshape(sh1)
gx,gy=np.meshgrid(np.arange(-45,24,.085),np.arange(-2,48,.085)); gz=land(gx,gy)
L=M(); L.grid(np.stack([gx,gy,gz],-1),np.stack([gx,gy],-1)/3.)
gm,gg=mottled(2048,(.36,.31,.23),31,.16,.75,(.03,.01,-.02),lo=10); peb=ss(.6,1.6,noise(2048,.5,33,150)); gm=gm*(1-.3*peb[...,None])+.55*peb[...,None]*np.array([.62,.60,.56])*.6
sh['land']=L.mesh('land',bump(two(diffuse(gm)),gg+1.5*peb,.008),smooth=True)
# grass + reeds
n=330000; px=-26+40*r.random(n); py=3.2+ (r.random(n)**1.5)*40; pz=land(px,py); cl=nlook(nz,px[None],py[None],30)[0]
ok=(pz>.16+.12*cl)&(cl>-.9)&~((px>-14.2)&(px<-7.0)&(py>18.5)&(py<27.5))&~((px>.7)&(px<2.9)&(py<8.6)&(py>3)); P=np.stack([px,py,pz-.02],1)[ok]
near=P[:,1]<14; G=M(); blades(G,P[near],.07,.26,1,.0042,.42); blades(G,P[~near],.12,.40,2,.010,.35)
R=M()
for cx,cy,sd,nn in((-4.6,9.6,.9,800),(-6.2,12.2,1.1,900),(-3.0,8.3,.55,330),(5.6,9.6,.8,620),(7.6,10.6,1.0,800),(-7.4,15.6,1.0,700),(4.3,9.0,.4,160)):
    q=np.stack([r.normal(cx,sd,nn),r.normal(cy,sd*.55,nn)],1); z=land(q[:,0],q[:,1]); k=(z>-.45)&(z<.28); q=np.concatenate([q[k],np.maximum(z[k],-.2)[:,None]],1); blades(R,q,.55,1.45,int(nn),.0085,.13)
gt,_=mottled(512,(.36,.38,.14),41,.24,.3,(.11,.04,-.01)); rt,_=mottled(512,(.52,.47,.24),43,.2,.3,(.10,.03,-.01))
sh['grass']=G.mesh('grass',two(diffuse(gt))); sh['reed']=R.mesh('reed',two(diffuse(rt)))
# stones at the edge
S=M(); th,ph=np.meshgrid(np.linspace(0,np.pi,10),np.linspace(0,2*np.pi,15),indexing='ij')
for q in range(520):
    x=-9+19*r.random(); yv=5.0+5.6*r.random(); z=float(land(x,yv))
    if z<-.12 or z>.34 or(.8<x<2.9 and yv>6.3): continue
    s=.03+.11*r.random()**3; d=np.stack([np.sin(th)*np.cos(ph),np.sin(th)*np.sin(ph),np.cos(th)],-1); k=s*(1+.16*np.sin(3*d[...,0]+q)+.13*np.sin(4*d[...,1]+2*q)); a=r.random()*6; dd=d*k[...,None]*[1.3,.95,.6]; dd=np.stack([dd[...,0]*np.cos(a)-dd[...,1]*np.sin(a),dd[...,0]*np.sin(a)+dd[...,1]*np.cos(a),dd[...,2]],-1)
    S.grid(dd+[x,yv,z+s*.15],np.stack([th,ph],-1)*.06+r.random(2))
stt,stg=mottled(512,(.47,.45,.42),51,.16,1.,(.07,.03,0)); sh['stones']=S.mesh('stones',bump(two(diffuse(stt)),stg,.006),smooth=True)
# --- jetty
DZ=.78; JX0,JX1,JY0,JY1=1.0,2.7,6.3,29.0; B=M(); k=0; yv=JY0
while yv<JY1:
    wd=.142+.006*r.normal(); B.box((JX0-.05+r.normal(0,.006),yv,DZ-.035+r.normal(0,.0015)),(JX1+.05+r.normal(0,.006),yv+wd-.015,DZ+r.normal(0,.003)),1.3,'x',rnd=k,yaw=r.normal(0,.12)); yv+=wd; k+=1
PX0,PX1,PY1=-1.2,4.9,32.2; yv=JY1
while yv<PY1: B.box((PX0-.04,yv,DZ-.035+r.normal(0,.0015)),(PX1+.04,yv+.132,DZ+r.normal(0,.0015)),1.3,'x',rnd=k); yv+=.142; k+=1
for x in(JX0,JX1-.12): B.box((x,JY0,DZ-.22),(x+.12,JY1+.1,DZ-.036),1.3,'y',rnd=5)
B.box((PX0,JY1,DZ-.22),(PX1,JY1+.12,DZ-.036),1.3,'x'); B.box((PX0,PY1-.12,DZ-.22),(PX1,PY1,DZ-.036),1.3,'x')
B.box((JX0-.07,JY0,DZ+.002),(JX0+.03,JY1,DZ+.082),1.3,'y',rnd=77)                       # kerb board along the left deck edge
posts=[]
for i,yv in enumerate(np.arange(7.4,29,3.55)):
    for x in(JX0-.20,JX1+.06): posts.append((x,yv,DZ+ (1.02 if x>2 else .42)))
for x,yv in((PX0-.16,29.1),(PX1,29.1),(PX0-.16,32.1),(PX1,32.1),(1.8,32.3)): posts.append((x,yv,DZ+.9))
AB=M(); 
for q in range(4):
    for e in range(3): xa=.62+e*.84-(q%2)*.2; AB.box((max(xa,.6)+.006,5.55,-.9+q*.40),(min(xa+.84 if e<2 else 3.1,3.1)-.006,6.45,-.9+(q+1)*.40-.012),2.,rnd=q*5+e)
AB.box((.50,5.47,DZ-.08),(3.2,6.30,DZ+.03),2.,rnd=2)
P_=M()
for i,(x,yv,z) in enumerate(posts): P_.box((x,yv,-1.5),(x+.15,yv+.15,z),1.1,'z',rnd=i); P_.box((x-.012,yv-.012,z),(x+.162,yv+.162,z+.03),1.1,'x',rnd=i)
RX=JX1+.06; P_.box((RX+.03,7.3,DZ+.86),(RX+.12,28.9,DZ+.95),1.1,'y',rnd=9); P_.box((RX+.055,7.3,DZ+.42),(RX+.095,28.9,DZ+.52),1.1,'y',rnd=8)
wt,wg=planks(1024,1,61,(.49,.44,.385)); pt,pg=planks(1024,1,67,(.37,.315,.265))
sh['deck']=B.mesh('deck',bump(two(diffuse(wt)),wg,.006)); sh['posts']=P_.mesh('posts',bump(two(diffuse(pt)),pg,.006))
at,ag=mottled(1024,(.50,.485,.45),151,.10,.55,(.02,.015,.01),lo=6); at=at*(1-.22*ss(.4,2,noise(1024,1.5,153,3)))[...,None]; sh['abut']=AB.mesh('abut',bump(two(diffuse(at)),ag,.0018))
# rope hanging along the left posts
lp=[p for p in posts if p[0]<1 and p[1]<29.0 and p[2]<DZ+.5]; RP=M()
for p,q in zip(lp[:-1],lp[1:]):
    t=np.linspace(0,1,15)
    c=np.stack([p[0]+.075+0*t,p[1]+.075+(q[1]-p[1])*t,p[2]-.07-.20*4*t*(1-t)],1)
    for a,b in zip(c[:-1],c[1:]): RP.cyl(a,b,.017,n=8,cap=False)
sh['rope']=RP.mesh('rope',two(diffuse([.36,.30,.20])))
# --- rowing boat moored left of the jetty
bo=M(); s=np.linspace(0,1,40); u=np.linspace(-1,1,25); hw=.66*np.sin(np.pi*(.10+.90*s))**.55*np.where(s>.9,1-(s-.9)*3.,1); hw[0]*=.9; sheer=.40+.22*(2*s-1)**2
for inset in(0,.025):
    Q=np.zeros((40,25,3)); Q[...,0]=np.sign(u)*np.abs(u)**.75*(hw-inset)[:,None]; Q[...,1]=((s-.5)*4.1)[:,None]; Q[...,2]=-.10+inset+(sheer+.10)[:,None]*np.abs(u)**2.6; a=math.radians(-14); X_=Q[...,0]*math.cos(a)-Q[...,1]*math.sin(a); Y_=Q[...,0]*math.sin(a)+Q[...,1]*math.cos(a)
    bo.grid(np.stack([X_-.95,Y_+15.2,Q[...,2]],-1),np.stack([Q[...,1],Q[...,2]*2+Q[...,0]],-1)/1.2)
bt,bg=planks(1024,6,81,(.20,.33,.40)); sh['boat']=bo.mesh('boat',two(princ(bt,.5,.4)),smooth=True)
th_=M(); 
for o in(-.75,.35): th_.box((-1.5,15.2+o-.12,.22),(-.42,15.2+o+.12,.26),1.,'x',yaw=14.,rnd=int(o*9)+20)
sh['thw']=th_.mesh('thw',two(diffuse(wt)))
# --- boathouse
BX0,BX1,BY0,BY1=-13.6,-7.6,19.5,26.0; GZ=.55; EZ=3.05; RZ=5.15; RY=(BY0+BY1)/2; C=M(); nb=17; bh=(EZ-GZ)/nb
WX0,WX1,WZ0,WZ1=-11.6,-9.7,1.35,2.45; DY0,DY1,DZ1=RY-1.35,RY+1.35,2.75
for q in range(nb):
    z0,z1=GZ+q*bh,GZ+(q+1)*bh-.004; o=.014*(q%2)
    for a,b in(((BX0,WX0),(WX1,BX1)) if z1>WZ0 and z0<WZ1 else((BX0,BX1),)): C.box((a,BY0-o,z0),(b,BY0+.06,z1),1.4,'x',rnd=q)
    for a,b in(((BY0,DY0),(DY1,BY1)) if z0<DZ1 else((BY0,BY1),)): C.box((BX1-.06,a,z0),(BX1+o,b,z1),1.4,'y',rnd=q+30)
q=0; z=EZ
while z<RZ-.05:
    z1=min(z+bh-.004,RZ); f=(z1-EZ)/(RZ-EZ); C.box((BX1-.06,BY0+(RY-BY0)*f,z),(BX1+.014*(q%2),BY1-(BY1-RY)*f,z1),1.4,'y',rnd=q+60); z+=bh; q+=1
ct,cg=planks(1024,1,91,(.30,.225,.175)); sh['clad']=C.mesh('clad',bump(two(diffuse(ct)),cg,.005))
F=M()
for lo,hi,g in(((WX0-.1,BY0-.05,WZ0-.1),(WX1+.1,BY0+.03,WZ0),'x'),((WX0-.1,BY0-.05,WZ1),(WX1+.1,BY0+.03,WZ1+.1),'x'),((WX0-.1,BY0-.05,WZ0),(WX0,BY0+.03,WZ1),'z'),((WX1,BY0-.05,WZ0),(WX1+.1,BY0+.03,WZ1),'z'),((-10.68,BY0-.02,WZ0),(-10.62,BY0+.02,WZ1),'z'),((WX0,BY0-.02,1.87),(WX1,BY0+.02,1.92),'x'),
    ((BX1-.02,DY0-.12,GZ-.6),(BX1+.06,DY0,DZ1+.12),'z'),((BX1-.02,DY1,GZ-.6),(BX1+.06,DY1+.12,DZ1+.12),'z'),((BX1-.02,DY0,DZ1),(BX1+.06,DY1,DZ1+.12),'y'),((BX1-.04,BY0-.04,GZ-.1),(BX1+.05,BY0+.06,EZ),'z'),((BX0-.04,BY0-.04,GZ-.1),(BX0+.1,BY0+.06,EZ),'z'),((BX0-.3,BY0-.42,EZ-.20),(BX1+.3,BY0-.38,EZ-.02),'x')): F.box(lo,hi,1.2,g,rnd=3)
def barge(s0,s1):
    for a in np.linspace(0,1,2)[:-1]: pass
for sgn in(0,1):
    y0=(BY0-.4,BY1+.4)[sgn]; z0=EZ-.28; F.add([[BX1+.30,y0,z0-.10],[BX1+.30,RY,RZ-.02],[BX1+.30,RY,RZ+.16],[BX1+.30,y0,z0+.08]],[[0,0],[0,2],[.1,2],[.1,0]],[[0,1,2],[0,2,3]])
ft,fg=planks(1024,1,95,(.74,.73,.68)); sh['trim']=F.mesh('trim',two(princ(ft,.5,.35)))
gl=M(); gl.quad([WX0,BY0+.01,WZ0],[WX1,BY0+.012,WZ0],[WX1,BY0+.005,WZ1],[WX0,BY0+.01,WZ1]); sh['gl']=gl.mesh('gl',two({'type':'plastic','diffuse_reflectance':{'type':'rgb','value':.012},'int_ior':1.6}))
dk=M(); dk.box((BX0,BY0+.08,GZ-1),(BX1-.08,BY1,EZ)); sh['dk']=dk.mesh('dk',two(diffuse([.022,.02,.018])))
Tm=M(); sl=(RZ-EZ)/(RY-BY0); nr=17; tw=.24
for side in(-1,1):
    for q in range(nr):
        s0=q/nr; s1=(q+1.18)/nr; ya=(BY0-.42)+(RY-BY0+.42)*s0; yb=(BY0-.42)+(RY-BY0+.42)*min(s1,1); za=RZ-sl*(RY-ya); zb=RZ-sl*(RY-yb)
        if side>0: ya,yb=2*RY-ya,2*RY-yb
        for p in range(int((BX1-BX0+.6)/tw)+1):
            xa=BX0-.32+p*tw+(q%2)*tw/2; j=r.normal(0,.006); e=r.normal(0,.005); h=.035
            xb=min(xa+tw-.006,BX1+.34)
            if xb<xa: continue
            v=[[xa,ya,za+h+j],[xb,ya,za+h+j+e],[xb,yb,zb+.012],[xa,yb,zb+.012],[xa,ya,za+j],[xb,ya,za+j+e]]; o=r.random(2)*9
            Tm.add(v,np.array([[0,0],[.2,0],[.2,.2],[0,.2],[0,-.03],[.2,-.03]])+o,[[0,1,2],[0,2,3],[4,5,1],[4,1,0]])
dk2=M(); dk2.quad([BX0-.25,BY0-.36,EZ-.20],[BX1+.25,BY0-.36,EZ-.20],[BX1+.25,RY,RZ-.06],[BX0-.25,RY,RZ-.06]); dk2.quad([BX0-.25,BY1+.36,EZ-.20],[BX1+.25,BY1+.36,EZ-.20],[BX1+.25,RY,RZ-.06],[BX0-.25,RY,RZ-.06]); sh['dk2']=dk2.mesh('dk2',two(diffuse([.06,.045,.035])))
Tm.cyl((BX0-.34,RY,RZ+.03),(BX1+.34,RY,RZ+.03),.11,n=16)
tt,tg=mottled(1024,(.42,.27,.21),97,.17,1.0,(.06,.03,.01),lo=1); sh['tiles']=Tm.mesh('tiles',bump(two(diffuse(tt)),tg,.005))
# --- trees by the boathouse
LV=M(); TK=M()
for(tx,ty,hh,rad) in((-17.5,27.5,7.4,3.1),(-13.2,31.5,8.6,3.6),(-22.,31,8.2,3.8),(-21,21,6.4,2.6),(-28,27,8.5,3.6)):
    z=float(land(tx,ty)); TK.cyl((tx,ty,z-.3),(tx+.2,ty,z+hh*.75),.24,.09,16)
    for q in range(9):
        a=r.random()*6.28; c=np.array([tx+rad*.62*np.cos(a)*r.random()**.5,ty+rad*.62*np.sin(a)*r.random()**.5,z+hh*.52+hh*.50*r.random()]); leaves(LV,c,rad*(.34+.2*r.random()),3000,.085,q+int(hh*9),.8,.25); leaves(LV,c,rad*(.55+.2*r.random()),500,.085,q+int(hh*5),.8,.6); TK.cyl((tx,ty,z+hh*.35),c,.07,.02,8)
for cx,cy,rr_ in((-14.6,19.0,.9),(-15.6,20.4,1.1),(-6.9,28.6,.9),(-9.5,28.9,1.2)): leaves(LV,np.array([cx,cy,float(land(cx,cy))+rr_*.6]),rr_,2600,.06,int(cx*-7))
lt,_=mottled(512,(.42,.47,.18),101,.26,.3,(.10,.02,-.01)); kt,kg=mottled(512,(.25,.21,.17),103,.2,.8); sh['leaf']=LV.mesh('leaf',two(diffuse(lt))); sh['trunk']=TK.mesh('trunk',bump(two(diffuse(kt)),kg,.01))
# --- far shore (waterline exactly level at z=0, y=SHORE), trees on it, three uneven ridges
fs=M(); fs.quad([-1700,SHORE,0],[1700,SHORE,0],[1700,SHORE+14,2.2],[-1700,SHORE+14,2.2],30.); fs.quad([-1700,SHORE+14,2.2],[1700,SHORE+14,2.2],[1700,SHORE+400,26],[-1700,SHORE+400,26],300.)
hm,hg=mottled(2048,(.30,.33,.17),111,.10,1.0,(.05,.03,0),lo=3); sh['fs']=fs.mesh('fs',two(diffuse(hm)))
FT=M(); xs=-1500+3000*r.random(520)
for i,x in enumerate(xs): hh=7+9*r.random(); leaves(FT,np.array([x,SHORE+16+ 60*r.random()**1.5,2.5+hh*.45]),hh*.5,110,1.5,i,1.1,.3)
dtx,_=mottled(512,(.20,.24,.10),161,.22,.3,(.06,.02,0)); sh['ft']=FT.mesh('ft',two(diffuse(dtx)))
def ridge(y0,depth,prof,name,seed,trees=0,base=(.24,.27,.14)):
    nx,ny=900,110; gx=np.linspace(-1.05*y0,1.05*y0,nx); v=np.linspace(0,1,ny); pr=prof(gx/y0); n2=cv2.resize(noise(2048,1.65,seed,3),(nx,512))[:ny*2:2][:ny]; n3=cv2.resize(noise(1024,1.1,seed+5,20),(nx,ny))
    Zr=pr[None]*np.sin(np.pi*.5*v[:,None])**1.15*(1+.10*n2*(v[:,None]*(1.25-v[:,None])*2.2))+n3*2.2; X_=np.repeat(gx[None],ny,0); Y_=np.repeat((y0+v*depth)[:,None],nx,1)
    m=M(); m.grid(np.stack([X_,Y_,Zr],-1),np.stack([X_/1400,Y_/1400+Zr/700],-1)); t,g=mottled(2048,base,seed,.10,.9,(.035,.02,-.01),lo=4)
    wood=ss(-.05,.35,noise(2048,1.8,seed+3,3)); t=t*(1-wood[...,None])+wood[...,None]*np.array([.13,.17,.075])*(1+.22*noise(2048,.6,seed+4,120))[...,None]
    sh[name]=m.mesh(name,two(diffuse(t)),smooth=True)
    return
def p1(a,lo,hi,sl,seed): 
    k=np.random.default_rng(seed); f=sum((1/(j**1.25))*np.sin(a*j*3.1+k.random()*6.28) for j in range(1,26)); f=(f-f.min())/(f.max()-f.min()); return lo+(hi-lo)*f+sl*a
ridge(2150,620,lambda a:p1(a,24,105,-40,5),'r1',121)
ridge(3100,1100,lambda a:p1(a,90,235,-120,12),'r2',131,base=(.29,.28,.16))
ridge(5200,1700,lambda a:p1(a,210,430,-170,23),'r3',141,base=(.30,.27,.19))
env,hz,d,sk=sky(-112,12.5,3.2,cover=.12,cloud_scale=.62,seed=25,sun_lum=4.6,ground=(.05,.05,.045))
sh['env']=envmap(env); sc=dict(sh); sc['sensor']=cam.sensor(W,H)
a,info=render(sc,W,H,SPP,2,6,log=1); dn,td=denoise(a); info['oidn_s']=round(td,1); info['truth_check']=poscheck(None,cam,a,1,W,H)
t=time.time(); dep=a[...,9]; hzc=np.array(hz)*.45+np.array([.30,.36,.44]); L_=10500.
haze=1-np.exp(-np.where(dep>0,dep,0)/L_); lin=dn*(1-haze[...,None])+hzc*haze[...,None]; print('horizon',hzc,'mean',lin.mean((0,1)))
img=develop(lin,expo=1.42,seed=2,wb=(1.0,1,1.03)); info['post_s']=round(time.time()-t,1)
Ls=[]
p=lambda i:posts[i]
for j,i in enumerate((1,3,5,0)): x,yv,z=posts[i]; Ls.append((f'v{j+1} post {i} front-left edge','vertical',(x,yv,max(0.,0)),(x,yv,z)))
Ls+=[('v5 boathouse near corner','vertical',(BX1+.05,BY0-.04,GZ-.1),(BX1+.05,BY0-.04,EZ-.2)),('v6 boathouse window right frame edge','vertical',(WX1+.1,BY0-.05,WZ0),(WX1+.1,BY0-.05,WZ1+.1)),('v8 boat door right jamb','vertical',(BX1+.06,DY1+.12,GZ+.2),(BX1+.06,DY1+.12,DZ1+.1)),('v7 boat door left jamb','vertical',(BX1+.06,DY0,GZ),(BX1+.06,DY0,DZ1)),
 ('h1 far waterline','horizontal-facing',(-1400,SHORE,0),(1400,SHORE,0)),('h2 boathouse fascia lower edge','horizontal-facing',(BX0-.3,BY0-.42,EZ-.2),(BX1+.3,BY0-.42,EZ-.2)),('h3 boathouse ridge (axis of the ridge roll)','horizontal-facing',(BX0-.34,RY,RZ+.14),(BX1+.34,RY,RZ+.14)),('h4 platform near beam lower edge','horizontal-facing',(PX0,JY1,DZ-.22),(PX1,JY1,DZ-.22)),('h5 boathouse window head','horizontal-facing',(WX0-.1,BY0-.05,WZ1+.1),(WX1+.1,BY0-.05,WZ1+.1)),('h6 stone landing front edge','horizontal-facing',(.50,5.47,DZ+.03),(3.2,5.47,DZ+.03)),
 ('r1 jetty left kerb board, top outer edge','horizontal-receding',(JX0-.07,JY0,DZ+.082),(JX0-.07,JY1,DZ+.082)),('r2 jetty handrail top left edge','horizontal-receding',(RX+.03,7.3,DZ+.95),(RX+.03,28.9,DZ+.95)),('r3 jetty middle rail top left edge','horizontal-receding',(RX+.055,7.3,DZ+.52),(RX+.055,28.9,DZ+.52)),('r4 boat door head','horizontal-receding',(BX1+.06,DY0,DZ1),(BX1+.06,DY1,DZ1)),('r5 jetty kerb board inner top edge','horizontal-receding',(JX0+.03,JY0,DZ+.082),(JX0+.03,JY1,DZ+.082))]
lines=truth(cam,Ls,dep); h=np.degrees
cv2.imwrite(OUT+'_look.png',cv2.resize(img[...,::-1],(1280,853),interpolation=cv2.INTER_AREA))
fl_,f35=save(img,OUT+'.jpg',cam,'2025:10:03 17:21:44')
ln=[l for l in lines if l['id'].startswith('h1')][0]; ang=math.degrees(math.atan2(ln['p1'][1]-ln['p0'][1],ln['p1'][0]-ln['p0'][0]))
json.dump(dict(place='the Wendlow valley (invented)',scene='A reservoir shore, low sun',width=3000,height=2000,roll_deg=2.30,pitch_deg=-3.,yaw_deg=0.,hfov_deg=60.,f_px=cam.f,f_mm=round(fl_,3),f35_mm=round(f35,3),principal_point=[1500,1000],distortion=dict(model='none',k1=0.),
 signs='yaw+ right, pitch+ up, roll+ camera turned clockwise seen from behind (level lines run UP to the right in the picture)',camera_pos=[0,0,2.55],far_waterline_angle_deg_image_y_down=round(ang,4),note='the ridge lines are deliberately not level; the far waterline is',lines=lines),open(OUT+'.json','w'),indent=1)
print(info,'waterline',ang); [print(l['id'],l['kind'],l['bow_px'],l['visible_fraction']) for l in lines]
