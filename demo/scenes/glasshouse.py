"""Wendlow valley botanical glasshouse (invented).  usage: run.sh glasshouse.py OUT WIDTH SPP"""
import sys; from veg import *
t00=time.time(); OUT,W,SPP=sys.argv[1],int(sys.argv[2]),int(sys.argv[3]); H=W*2//3
cam=Cam((0,0,1.6),24,5,.80,62,3000,2000); r=np.random.default_rng(5); sh={}
XC,Y0,Y1=4.6,10.2,13.0; HW=2.8; FL=.45; DH,DW=2.40,1.60; ZD=FL+DH; PT=.95; CAP=1.01; EZ=3.85; AP=6.45; WEZ=3.0
NW,BAY=7,1.38; XR1=XC+HW+NW*BAY; XL1=XC-HW-6*BAY; YF=Y0-.06       # YF = front face of the iron frame = plane of the door opening
fr=M(); gl=M(); bk=M(); stn=M(); ir=M(); dr=M(); br_=M()
def vb(x,z0,z1,y=Y0,w=.05,d=.10,m=fr): m.box((x-w/2,y-d/2,z0),(x+w/2,y+d/2,z1),1.2,'z')
def hb(x0,x1,z,y=Y0,h=.05,d=.10,m=fr): m.box((x0,y-d/2,z-h/2),(x1,y+d/2,z+h/2),1.2,'x')
def slab(m,a,b,w,y0,y1,tile=1.2):       # sloping bar in a facade plane, a,b = (x,z), w across
    a,b=np.array(a,float),np.array(b,float); d=(b-a)/np.linalg.norm(b-a); n=np.array([-d[1],d[0]])*w/2; L=np.linalg.norm(b-a)
    q=[a-n,b-n,b+n,a+n]; f=[[p[0],y0,p[1]] for p in q]; k=[[p[0],y1,p[1]] for p in q]; uv=np.array([[0,0],[L,0],[L,w],[0,w]])/tile; m.add(f,uv,[[0,1,2],[0,2,3]])
    for i,j in((0,1),(1,2),(2,3),(3,0)): m.add([f[i],f[j],k[j],k[i]],uv,[[0,1,2],[0,2,3]])
def bar3(m,a,b,w,h):                    # box bar between two 3-d points (in y-z plane), w in x, h normal
    a,b=np.array(a,float),np.array(b,float); d=(b-a)/np.linalg.norm(b-a); ex=np.array([1.,0,0]); n=np.cross(ex,d); L=np.linalg.norm(b-a); c=[(i,j) for i,j in((-1,-1),(1,-1),(1,1),(-1,1))]; A=[a+ex*w/2*i+n*h/2*j for i,j in c]; B=[b+ex*w/2*i+n*h/2*j for i,j in c]; uv=np.array([[0,0],[L,0],[L,w],[0,w]])/1.2+r.random(2)
    for i in range(4): j=(i+1)%4; m.add([A[i],B[i],B[j],A[j]],uv,[[0,1,2],[0,2,3]])
    m.add(A,uv,[[0,1,2],[0,2,3]])
TI=.0016
def pane(P,tilt=TI):                    # convex polygon, slightly tilted as a whole
    P=np.array(P,float); P=P[[np.linalg.norm(P[i]-P[i-1])>2e-3 for i in range(len(P))]]
    if len(P)<3: return
    n=np.cross(P[1]-P[0],P[-1]-P[0]); n/=np.linalg.norm(n); c=P.mean(0); s=r.normal(0,tilt*1.6,2); u=(P[1]-P[0])/np.linalg.norm(P[1]-P[0]); v=np.cross(n,u); q=P-c; P=P+((q@u)*s[0]+(q@v)*s[1])[:,None]*n/.5*.5; k=len(P); uv=np.stack([q@u,q@v],1)/.9+r.random(2)*3
    gl.add(P,uv,[[0,i,i+1] for i in range(1,k-1)])
def clip(P,f):                          # keep f(p)>=0 (2-d polygon)
    o=[]
    for a,b in zip(P,P[1:]+P[:1]):
        fa,fb=f(a),f(b)
        if fa>=0: o.append(a)
        if (fa>=0)!=(fb>=0): t=fa/(fa-fb); o.append((a[0]+(b[0]-a[0])*t,a[1]+(b[1]-a[1])*t))
    return o
# --- pavilion front
cols=[-2.74,-2.30,-1.86,-1.39,-.92]; cols=cols+[-c for c in cols[::-1]]; rows=[CAP+i*(EZ-CAP)/5 for i in range(6)]
for s in(-1,1):
    fr.box((XC+(s*.86)-.06,YF,FL),(XC+(s*.86)+.06,Y0+.09,EZ),1.2,'z')                     # door jambs: inner edges exactly +-0.80
    fr.box((XC+s*2.74-.06,YF-.02,PT),(XC+s*2.74+.06,Y0+.10,EZ),1.2,'z'); vb(XC+s*1.86,CAP,EZ,w=.085,d=.13)
    for c in(1.39,2.30): vb(XC+s*c,CAP,EZ,w=.032,d=.07)
    for z in rows[1:-1]: hb(XC+min(s*.92,s*2.68),XC+max(s*.92,s*2.68),z,h=.03 if abs(z-rows[3])>.01 else .06,d=.07 if abs(z-rows[3])>.01 else .11)
    hb(XC+min(s*.92,s*2.68),XC+max(s*.92,s*2.68),CAP+.03,h=.06,d=.12)
    xs=[.92,1.39,1.86,2.30,2.70]
    for a,b in zip(xs[:-1],xs[1:]):
        for z0,z1 in zip(rows[:-1],rows[1:]): x0,x1=sorted((XC+s*a,XC+s*b)); pane([[x0,Y0,z0],[x1,Y0,z0],[x1,Y0,z1],[x0,Y0,z1]])
fr.box((XC-.92,YF,ZD),(XC+.92,Y0+.09,ZD+.12),1.2,'x')                                     # door head: lower edge exactly at FL+2.40
for q in range(1,4): vb(XC-.8+q*.4,ZD+.12,EZ,w=.032,d=.07)
hb(XC-.8,XC+.8,(ZD+.12+EZ)/2,h=.03,d=.07)
for q in range(4):
    for z0,z1 in((ZD+.12,(ZD+.12+EZ)/2),((ZD+.12+EZ)/2,EZ)): pane([[XC-.8+q*.4,Y0,z0],[XC-.4+q*.4,Y0,z0],[XC-.4+q*.4,Y0,z1],[XC-.8+q*.4,Y0,z1]])
fr.box((XC-HW-.02,YF-.05,EZ),(XC+HW+.02,Y0+.12,EZ+.16),1.2,'x'); fr.box((XC-HW-.08,YF-.10,EZ+.16),(XC+HW+.08,Y0+.12,EZ+.21),1.2,'x'); GZ=EZ+.21
sl=(AP-GZ)/HW; top=lambda x: AP-sl*abs(x)
gc=[-2.30,-1.86,-1.39,-.92,-.46,0,.46,.92,1.39,1.86,2.30]; gr=[GZ+i*.46 for i in range(6)]
for c in gc: vb(XC+c,GZ,top(c)-.04,w=.07 if abs(c) in(.92,1.86) else .032,d=.10 if abs(c) in(.92,1.86) else .07)
for z in gr[1:]:
    w=(AP-z)/sl-.05
    if w>.1: hb(XC-w,XC+w,z,h=.03,d=.07)
gx=[-HW]+gc+[HW]
for a,b in zip(gx[:-1],gx[1:]):
    for i,z0 in enumerate(gr):
        P=clip(clip([(a,z0),(b,z0),(b,z0+.46),(a,z0+.46)],lambda p:top(0)-sl*p[0]-p[1]),lambda p:top(0)+sl*p[0]-p[1])
        if len(P)>=3: pane([[XC+p[0],Y0,p[1]] for p in P])
for s in(-1,1): slab(fr,(XC+s*(HW+.22),GZ-.22*sl+.03),(XC,AP+.03),.17,YF-.10,Y0+.10); slab(fr,(XC+s*(HW+.26),GZ-.26*sl+.14),(XC,AP+.14),.05,YF-.16,Y0+.10)
fr.cyl((XC,YF+.02,AP+.05),(XC,YF+.02,AP+.62),.035,.012,12); fr.cyl((XC,YF+.02,AP+.22),(XC,YF+.02,AP+.30),.075,.075,16); fr.cyl((XC,YF-.08,EZ+1.75),(XC,YF+.02,EZ+1.75),.0001,.30,28) if 0 else None
# --- pavilion flanks (left one seen) and its roof bars
for s in(-1,1):
    x=XC+s*(HW-.03)
    for y in(Y0+1.4,Y1-.05): fr.box((x-.05,y-.045,PT),(x+.05,y+.045,EZ),1.2,'z')
    for y in(Y0+.47,Y0+.93,Y0+1.87,Y0+2.33): fr.box((x-.035,y-.016,CAP),(x+.035,y+.016,EZ),1.2,'z')
    for z in rows[1:-1]: fr.box((x-.035,Y0,z-.015),(x+.035,Y1,z+.015),1.2,'y')
    fr.box((x-.07,Y0-.02,CAP),(x+.06,Y1,CAP+.06),1.2,'y'); fr.box((XC+s*HW-.06,YF,EZ),(XC+s*HW+.06,Y1+1.,EZ+.16),1.2,'y')
    xo=XC+s*(HW+.16); fr.box((min(xo,XC+s*HW),Y0+.12,EZ+.07),(max(xo,XC+s*HW),Y1+1.2,EZ+.19),1.2,'y')
    if s<0:
        ys=[Y0,Y0+.47,Y0+.93,Y0+1.4,Y0+1.87,Y0+2.33,Y1]
        for a,b in zip(ys[:-1],ys[1:]):
            for z0,z1 in zip(rows[:-1],rows[1:]): pane([[x,b,z0],[x,a,z0],[x,a,z1],[x,b,z1]])
    for y in np.arange(Y0+.93,Y1+4,.93): slab(fr,(XC+s*HW,GZ),(XC,AP),.05,y-.03,y+.03)
    for f in(.33,.66): px=XC+s*HW*(1-f); pz=GZ+(AP-GZ)*f; fr.box((px-.02,Y0,pz-.03),(px+.02,Y1+4,pz+.03),1.2,'y')
# --- wings
th=math.radians(36); RL=4.2; ry,rz=math.cos(th)*RL,math.sin(th)*RL; RZ=WEZ+.14
for side,(xa,n,dr_) in enumerate(((XC+HW,NW,1),(XC-HW,6,-1))):
    wr=[CAP+i*(WEZ-CAP)/4 for i in range(5)]; xe=xa+dr_*n*BAY; lo,hi=min(xa,xe),max(xa,xe)
    for i in range(1,n+1): x=xa+dr_*i*BAY; fr.box((x-.045,Y1-.07,PT),(x+.045,Y1+.07,WEZ),1.2,'z')
    for i in range(n):
        for q in(1,2): vb(xa+dr_*(i*BAY+q*BAY/3),CAP,WEZ,Y1,.03,.07)
        for q in range(3):
            x0,x1=sorted((xa+dr_*(i*BAY+q*BAY/3),xa+dr_*(i*BAY+(q+1)*BAY/3)))
            for z0,z1 in zip(wr[:-1],wr[1:]): pane([[x0,Y1,z0],[x1,Y1,z0],[x1,Y1,z1],[x0,Y1,z1]])
    for z in wr[1:-1]: hb(lo,hi,z,Y1,.028 if abs(z-wr[3])>.01 else .05,.07)
    hb(lo,hi,CAP+.03,Y1,.06,.12); fr.box((lo,Y1-.09,WEZ),(hi,Y1+.10,WEZ+.12),1.2,'x'); fr.box((lo,Y1-.24,WEZ+.06),(hi,Y1-.09,WEZ+.17),1.2,'x')
    nb=n*3
    for i in range(nb+1): x=xa+dr_*i*BAY/3; bar3(fr,(x,Y1-.08,RZ),(x,Y1-.08+ry,RZ+rz),.035 if i%3 else .06,.07)
    rr=[k*RL/6 for k in range(7)]
    for i in range(nb):
        x0,x1=sorted((xa+dr_*i*BAY/3,xa+dr_*(i+1)*BAY/3))
        for k in range(6):
            up=.10 if (i%6 in(1,2) and k==5) else 0; f=lambda t,e=0:(Y1-.08+math.cos(th)*t-math.sin(th)*e,RZ+math.sin(th)*t+math.cos(th)*e); a=f(rr[k],.02+up*2.2); b=f(rr[k+1],.02)
            pane([[x0,*a],[x1,*a],[x1,*b],[x0,*b]],TI*1.3); bar3(fr,(0,0,0),(0,1,0),0.0001,.0001) if 0 else fr.box((x0,a[0]-.006,a[1]-.006),(x1,a[0]+.006,a[1]+.012),1.2,'x')
            if up: bar3(fr,(x0+.02,*a),(x0+.02,*b),.03,.03); bar3(fr,(x1-.02,*a),(x1-.02,*b),.03,.03)
    fr.box((lo,Y1-.08+ry-.06,RZ+rz-.02),(hi,Y1-.08+ry+.06,RZ+rz+.09),1.2,'x'); yr=Y1-.08+ry
    for x in np.arange(lo,hi,.23): fr.cyl((x,yr,RZ+rz+.09),(x,yr,RZ+rz+.26),.014,.004,6); fr.cyl((x,yr,RZ+rz+.155),(x,yr,RZ+rz+.185),.026,.026,8)
    fr.box((lo,yr-.008,RZ+rz+.125),(hi,yr+.008,RZ+rz+.14),1.2,'x')
    for i in range(0,nb+1,3): x=xa+dr_*i*BAY/3; bar3(fr,(x,yr,RZ+rz),(x,yr+ry,RZ),.05,.06); fr.cyl((x,yr,.3),(x,yr,RZ+rz),.045,.045,10)
    # end gable of the right wing
    if dr_>0:
        fr.box((xe-.05,Y1,WEZ),(xe+.05,yr+ry,WEZ+.12),1.2,'y')
    # plinth of brick with a stone cap
    bk.add([[lo,Y1-.12,0],[hi,Y1-.12,0],[hi,Y1-.12,PT],[lo,Y1-.12,PT]],np.array([[lo,0],[hi,0],[hi,PT],[lo,PT]])/14.4,[[0,1,2],[0,2,3]]); x=lo
    while x<hi: w=min(1.15,hi-x); stn.box((x+.003,Y1-.17,PT),(x+w-.003,Y1+.12,CAP),2.3,rnd=int(x*7)); x+=w
    if dr_>0: bk.add([[hi,Y1-.12,0],[hi,Y1+7,0],[hi,Y1+7,PT],[hi,Y1-.12,PT]],np.array([[0,0],[7,0],[7,PT],[0,PT]])/14.4,[[0,1,2],[0,2,3]])
yb=Y0-.12
for s in(-1,1):
    x0,x1=sorted((XC+s*.92,XC+s*HW)); bk.add([[x0,yb,0],[x1,yb,0],[x1,yb,PT],[x0,yb,PT]],np.array([[x0,0],[x1,0],[x1,PT],[x0,PT]])/14.4+.3,[[0,1,2],[0,2,3]]); xm=(x0+x1)/2
    for a,b in((x0,xm),(xm,x1)): stn.box((a+.002,yb-.05,PT),(b-.002+(.05 if s>0 and b==x1 else 0),Y0+.12,CAP),2.3,rnd=int(a*9))
    xq=XC+s*(HW+.0); bk.add([[xq,yb,0],[xq,Y1,0],[xq,Y1,PT],[xq,yb,PT]],np.array([[0,0],[3,0],[3,PT],[0,PT]])/14.4+.11,[[0,1,2],[0,2,3]])
    for a,b in((yb-.05,Y0+1.3),(Y0+1.303,Y1-.17)): stn.box((xq-.06,a,PT),(xq+.06,b,CAP),2.3,'y',rnd=int(a*9))
    x0,x1=sorted((XC+s*.92,XC+s*.80)); bk.add([[x0,yb+.02,0],[x1,yb+.02,0],[x1,yb+.02,FL],[x0,yb+.02,FL]],np.array([[0,0],[.1,0],[.1,.4],[0,.4]])/14.4,[[0,1,2],[0,2,3]])
# --- steps
for q,(z,y) in enumerate(((.15,Y0-1.12),(.30,Y0-.78),(.45,Y0-.44))):
    for a,b in((-1.35,-.42),(-.416,.52),(.524,1.35)): stn.box((XC+a,y,-.1 if q==0 else z-.15),(XC+b,Y0+.10,z),2.3,rnd=q*9+int(a*5)+11)
# --- door leaves (green), opening left clear by 4 mm
DO0,DO1=YF+.005,YF+.060
for s in(-1,1):
    x0,x1=(XC-.796,XC-.003) if s<0 else (XC+.003,XC+.796); z0,z1=FL+.006,ZD-.004
    for a,b in((x0,x0+.095),(x1-.095,x1)): dr.box((a,DO0,z0),(b,DO1,z1),1.,'z',rnd=int(a*99))
    for a,b in((z0,z0+.20),(z0+.82,z0+.98),(z1-.11,z1)): dr.box((x0+.095,DO0,a),(x1-.095,DO1,b),1.,'x',rnd=int(b*99))
    dr.box((x0+.09,DO0+.02,z0+.19),(x1-.09,DO1-.01,z0+.83),1.,'z'); dr.box((x0+.15,DO0+.008,z0+.26),(x1-.15,DO1-.01,z0+.76),1.,'z',rnd=4)
    xm=(x0+x1)/2; dr.box((xm-.014,DO0+.012,z0+.98),(xm+.014,DO1-.012,z1-.11),1.,'z'); zs=[z0+.98+i*(z1-.11-z0-.98)/3 for i in range(4)]
    for z in zs[1:-1]: dr.box((x0+.095,DO0+.012,z-.013),(x1-.095,DO1-.012,z+.013),1.,'x')
    for a,b in((x0+.095,xm),(xm,x1-.095)):
        for c,d in zip(zs[:-1],zs[1:]): pane([[a,DO0+.03,c],[b,DO0+.03,c],[b,DO0+.03,d],[a,DO0+.03,d]])
    hx=XC+s*.055; br_.cyl((hx,DO0-.005,z0+.90),(hx,DO0-.055,z0+.90),.012,.012,10); br_.cyl((hx,DO0-.05,z0+.90),(hx+s*.0,DO0-.085,z0+.90),.03,.026,16); br_.box((hx-.022,DO0-.006,z0+.80),(hx+.022,DO0,z0+1.0))
    for z in(.25,1.2,2.15): ir.cyl((x0 if s<0 else x1,DO0-.01,z0+z-.05),(x0 if s<0 else x1,DO0-.01,z0+z+.05),.012,.012,8)
dt,dg=planks(1024,1,63,(.155,.235,.19)); dt=dt*(1-.3*ss(.5,2,noise(1024,1.4,64,3)))[...,None]; sh['door']=dr.mesh('door',bump(two(princ(dt,.42,.4)),dg,.0015)); sh['brass']=br_.mesh('brass',two({'type':'roughconductor','material':'Cu','alpha':.25,'specular_reflectance':{'type':'rgb','value':[.8,.8,.6]}}))
# downpipes
for x in(XC+HW+BAY*3+.0,XR1-.12): ir.cyl((x+.12,Y1-.21,.05),(x+.12,Y1-.21,WEZ+.08),.04,.04,16); [ir.cyl((x+.12,Y1-.21,z),(x+.12,Y1-.21,z+.07),.052,.052,16) for z in(.4,1.5,2.6)]
sh['iron']=ir.mesh('iron',two(princ([.10,.11,.105],.4,.4)))
pt,pg=mottled(1024,(.835,.83,.80),61,.028,.9,(.008,.004,-.008),lo=2); rust=ss(1.25,2.3,noise(1024,1.0,65,20)); gri=ss(.0,2.2,noise(1024,1.5,66,3)); pt=pt*(1-.10*gri-.07*ss(.4,2.,cv2.resize(noise(1024,.9,67,5)[:110],(1024,1024))))[...,None]; pt=pt*(1-.5*rust[...,None])+np.array([.48,.33,.21])*.5*rust[...,None]; sh['fr']=fr.mesh('fr',bump(two(princ(pt,.4,.4)),pg,.0005))
bt,bh=bricks(4096,64,192,3,(.545,.325,.235),(.60,.56,.49)); alg=ss(.3,1.9,noise(4096,1.4,17,8)); bt=bt*(1-.35*alg[...,None])+np.array([.30,.30,.21])*.35*alg[...,None]; sh['bk']=bk.mesh('bk',bump(two(diffuse(bt)),bh,.009))
st,sg=mottled(1024,(.66,.62,.54),11,.10,1.0,lo=3); st=st*(1-.38*ss(.2,2.2,noise(1024,1.5,14,2)))[...,None]; sh['stone']=stn.mesh('stone',bump(two(diffuse(st)),sg,.003))
dw=np.clip(.016+.012*noise(1024,1.1,91,3)+.045*ss(.8,2.4,noise(1024,1.5,92,2))+.014*cv2.resize(noise(1024,.9,93,4)[:60],(1024,1024)),.004,.16); sh['gl']=gl.mesh('gl',{'type':'blendbsdf','weight':texh(dw),'a':{'type':'thindielectric','int_ior':1.62},'b':two(diffuse([.50,.52,.47]))})
# --- inside: floor, back wall, staging, plants
ins=M(); ins.quad([XC-HW+.05,Y0+.02,.44],[XC+HW-.05,Y0+.02,.44],[XC+HW-.05,Y1+.05,.44],[XC-HW+.05,Y1+.05,.44],3.); ins.quad([XL1,Y1+.03,.43],[XR1,Y1+.03,.43],[XR1,Y1+9,.43],[XL1,Y1+9,.43],3.); it,_=mottled(512,(.36,.33,.28),33,.14,1.); sh['ins']=ins.mesh('ins',two(diffuse(it)))
bw=M(); bw.quad([XL1,yr+ry,.3],[XR1,yr+ry,.3],[XR1,yr+ry,RZ+.3],[XL1,yr+ry,RZ+.3],6.); wt_,wh_=bricks(1024,26,80,37,(.56,.53,.47),(.52,.50,.45)); sh['bw']=bw.mesh('bw',two(diffuse(wt_)))
stg=M()
for lo,hi in((XC+HW+.4,XR1-.4),(XL1+.4,XC-HW-.4)):
    stg.box((lo,Y1+.5,1.0),(hi,Y1+1.5,1.06),1.); [stg.box((x,Y1+.55,.3),(x+.07,Y1+.62,1.0),1.) for x in np.arange(lo+.1,hi,1.38)]
wd,_=planks(512,6,23,(.42,.36,.29)); sh['stg']=stg.mesh('stg',two(diffuse(wd)))
IN=[M(),M(),M()]; pot=M(); tki=M()
def palm(c,h,n,L,w,seed):
    q=np.random.default_rng(seed); c=np.array(c,float); tki.cyl(c,c+[0,0,h],.09,.07,8) if h>.3 else None; t=np.linspace(0,1,22)
    for i in range(n):
        a=i*2.4+q.normal(0,.2); el=q.uniform(.15,1.25); l=L*q.uniform(.8,1.15); d=np.array([np.cos(a),np.sin(a),0]); sp=c+[0,0,h]+np.outer(t*l*np.cos(el)*(1-.15*t),d)+np.outer(t*l*np.sin(el)-1.0*l*(t**2)*.62*math.cos(el*.6),[0,0,1]); sd=np.cross(d,[0,0,1])
        for k in range(2,22):
            for s in(-1,1):
                b=sp[k]; ll=w*math.sin(math.pi*min(.12+t[k]*.88,1))**.6*q.uniform(.85,1.1); e=b+sd*s*ll+d*ll*.55+np.array([0,0,-.25*ll]); o=d*.016; m_=IN[i%3]; m_.add([b-o,b+o,e],np.repeat(q.random((1,2)),3,0),[[0,1,2]])
def broad(c,h,n,L,w,seed):
    q=np.random.default_rng(seed); c=np.array(c,float); t=np.linspace(0,1,9)
    for i in range(n):
        a=i*2.4+q.normal(0,.3); el=q.uniform(.6,1.35); l=L*q.uniform(.7,1.1); d=np.array([np.cos(a),np.sin(a),0]); sp=c+[0,0,h*q.uniform(.3,1)]+np.outer(t*l*np.cos(el),d)+np.outer(t*l*np.sin(el)-l*t**2.2*.6,[0,0,1]); sd=np.cross(d,[0,0,1])*w; ww=np.sin(np.pi*np.clip(t*.9+.08,0,1))**.7; P=np.stack([sp-sd*ww[:,None]+[0,0,.03],sp,sp+sd*ww[:,None]+[0,0,.03]],1); IN[i%3].grid(P,np.repeat(q.random((1,1,2)),27,0).reshape(9,3,2)*.8+np.linspace(0,.1,9)[:,None,None])
for j,(x,y,h,n,L) in enumerate(((3.3,12.6,1.9,22,1.7),(6.3,13.2,2.4,24,1.9),(4.9,16.2,3.0,24,2.0),(2.6,15.2,1.2,18,1.5),(9.2,15.4,1.6,20,1.5),(12.4,16.,1.9,20,1.6),(15.2,15.2,1.4,18,1.4),(-.6,15.3,1.7,20,1.5),(-2.4,16,1.2,18,1.3))): palm((x,y,.3),h,n,L,.34,j)
for j,(x,y,h,n,L,w) in enumerate(((2.5,11.4,.9,16,1.5,.20),(5.9,11.3,.7,15,1.3,.18),(6.8,11.6,1.0,14,1.5,.2),(3.6,14.3,1.2,16,1.7,.22),(5.7,15,.8,14,1.6,.2),(8.2,14.6,1.,14,1.2,.16),(10.6,15.2,1.2,14,1.4,.2),(13.8,14.9,1.,14,1.3,.17),(.6,14.9,1.1,14,1.3,.18),(16.3,15.8,1.1,14,1.3,.18))): broad((x,y,.3),h,n,L,w,50+j)
for j in range(64):
    s=j%4; x=r.uniform(XC+HW+.6,XR1-.6) if j<46 else r.uniform(XL1+2,XC-HW-.6); y=Y1+.6+.75*r.random(); k=.12+.14*r.random(); pot.cyl((x,y,1.06),(x,y,1.06+k),k*.45,k*.6,12)
    (clump(IN[j%3],np.array([x,y,1.1+k*1.9]),k*1.5,260,.035,r,.9) if s else broad((x,y,1.06+k),.05,9,k*3,.05,j))
for j in range(22): x=r.uniform(2.2,7); y=r.uniform(11.,12.6); clump(IN[j%3],np.array([x,y,.55+.3*r.random()]),.35+.2*r.random(),500,.05,r,.9) if abs(x-XC)>.85 else None
for j,(x,y,z,k) in enumerate(((2.7,11.5,1.5,.75),(6.4,11.5,1.7,.8),(3.1,13.6,2.3,.9),(6.2,14.2,2.2,.9),(2.4,10.9,1.1,.5),(6.9,10.9,1.2,.5),(8.8,14.9,1.7,.7),(11.3,15.,2.,.8),(14.4,15.,1.8,.7),(.2,14.9,1.8,.8),(-1.6,15.,1.6,.7),(16.4,14.9,1.6,.6))):
    tki.cyl((x,y,.4),(x,y,z),.035,.02,7)
    for q in range(7): clump(IN[(j+q)%3],np.array([x,y,z])+r.normal(0,1,3)*k*.45,k*.5,650,.045,r,.8)
for q,c in enumerate(((.34,.47,.18),(.41,.52,.20),(.28,.42,.17))): sh['in%d'%q]=IN[q].mesh('in%d'%q,leafmat(leaftex(c,101+q),.8))
tkt,_=mottled(256,(.27,.23,.18),30,.2,.8); sh['tki']=tki.mesh('tki',two(diffuse(tkt))); po,_=mottled(256,(.58,.35,.24),29,.14,1.); sh['pot']=pot.mesh('pot',two(diffuse(po)))
# --- ground: lawn, gravel path, edging, beds
PX0,PX1=XC-1.25,XC+1.25; gv,gh=gravel(2560,42000,9); g=M(); xs=np.linspace(PX0,PX1,14); 
g.quad([PX0,-8,.03],[PX1,-8,.03],[PX1,Y0-.3,.03],[PX0,Y0-.3,.03],2.7); leafl=ss(2.2,2.6,noise(2560,.4,61,200)); sh['gravel']=g.mesh('gravel',bump(two(diffuse(np.clip(gv*1.16,0,1))),gh,.012))
stray=M(); thh,phh=np.meshgrid(np.linspace(0,np.pi,5),np.linspace(0,2*np.pi,7),indexing='ij')
for q in range(2600): x=r.uniform(PX0,PX1); y=r.uniform(3.2,9.0); s=.006+.008*r.random(); stray.grid(np.stack([np.sin(thh)*np.cos(phh),np.sin(thh)*np.sin(phh),.7*np.cos(thh)],-1)*(s*(1+.2*r.normal(0,1,thh.shape)*0+.18*np.sin(3*phh+q)))[...,None]+[x,y,.033],np.stack([thh,phh],-1)*.02+r.random(2))
stt,_=mottled(512,(.56,.52,.46),51,.22,.6,(.06,.03,0)); sh['stray']=stray.mesh('stray',two(diffuse(stt)),smooth=True)
lw=M(); lw.quad([-60,-40,0],[70,-40,0],[70,60,0],[-60,60,0],3.); lt,_=mottled(2048,(.30,.34,.145),71,.15,.8,(.04,.02,-.01),lo=6); sh['lawn']=lw.mesh('lawn',two(diffuse(lt)))
kb=M(); YK=8.55                                                                   # bed edge line; beds y YK..wall
def kerb(a,b,ax,c,w=.11,h=.10):
    x=a
    while x<b-1e-6:
        l=min(.62,b-x); lo=(x+.003,c,-.1) if ax=='x' else (c,x+.003,-.1); hi=(x+l-.003,c+w,h) if ax=='x' else (c+w,x+l-.003,h); kb.box(lo,hi,2.,ax,rnd=int(x*13)+7); x+=l
kerb(-4,YK+.11,'y',PX0-.11); kerb(-4,YK+.11,'y',PX1); kerb(-3.5,PX0-.11,'x',YK); kerb(PX1+.11,19.5,'x',YK+0.) if 0 else kerb(PX1+.11,8.6,'x',YK); YK2=11.3; kerb(8.6,18.5,'x',YK2); kerb(YK,YK2+.11,'y',8.6)
kt,kg=mottled(1024,(.55,.52,.47),55,.11,1.); kt=kt*(1-.3*ss(.2,2,noise(1024,1.5,56,3)))[...,None]; sh['kb']=kb.mesh('kb',bump(two(diffuse(kt)),kg,.003))
so=M(); sx,sy=np.meshgrid(np.arange(-3.6,18.6,.05),np.arange(YK+.1,Y1,.05)); sn=noise(1024,1.2,3,4); zz=.05+.025*cv2.remap(sn,((sx*60)%1024).astype(np.float32),((sy*60)%1024).astype(np.float32),1); bad=((sx>PX0)&(sx<PX1))|((sx>8.6)&(sy<YK2)); zz=np.where(bad,-.3,zz); so.grid(np.stack([sx,sy,zz],-1),np.stack([sx,sy],-1)/1.5); sot,sog=mottled(1024,(.25,.19,.145),57,.22,.5,(.02,.01,0),lo=8); sh['soil']=so.mesh('soil',bump(two(diffuse(sot)),sog,.01),smooth=True)
n=620000; x=r.uniform(-4.5,19,n); y=2.8+8.6*r.random(n)**1.15; a=np.degrees(np.arctan2(x,y)); ok=(a>-12)&(a<60)&~((x>PX0-.10)&(x<PX1+.10))&((y<YK-.0)|((x>8.7)&(y<YK2))); x,y=x[ok],y[ok]; P=np.stack([x,y,0*x-.004],1); q=len(P); hh=((.022+.040*r.random(q)**1.4)*(1+.8*(r.random(q)<.03)))[:,None]; w=(.0011+.00024*y)[:,None]; aa=r.random(q)*6.28; d=np.stack([np.cos(aa),np.sin(aa),0*aa],1); pn=cv2.remap(noise(1024,1.5,3,3),((x*45)%1024).astype(np.float32)[:,None],((y*45)%1024).astype(np.float32)[:,None],1)[:,0] if q<32000 else noise(1024,1.5,3,3)[((y*45)%1024).astype(int),((x*45)%1024).astype(int)]; stripe=np.where(np.floor((x+.3*0)/.55)%2<1,1,-1); l=r.normal(0,.45,(q,2)); l[:,1]+=.45*stripe; tip=P+np.concatenate([l,np.ones((q,1))],1)*hh
v=np.stack([P-d*w,P+d*w,tip],1).reshape(-1,3); uv=np.repeat(np.stack([r.random(q),np.clip(.47+.08*stripe+.13*pn+.16*r.standard_normal(q),.01,.9)],1),3,0); uv[2::3,1]+=.09; GR=M(); GR.add(v,uv,np.arange(q*3).reshape(-1,3))
edge=np.concatenate([np.stack([np.full(2600,c)+r.normal(0,.012,2600),r.uniform(3,YK,2600),np.zeros(2600)],1) for c in(PX0-.125,PX1+.125)]+[np.stack([r.uniform(a,b,3000),np.full(3000,c-.012)+r.normal(0,.01,3000),np.zeros(3000)],1) for a,b,c in((-3.5,PX0-.1,YK),(PX1+.1,8.6,YK),(8.6,18,YK2))]); blades(GR,edge,.04,.12,8,.0022,.4)
gt,_=mottled(512,(.36,.42,.165),41,.18,.3,(.05,.02,-.01)); gt*=np.linspace(.74,1.2,512)[:,None,None]; sh['grass']=GR.mesh('grass',leafmat(np.clip(gt,0,1),.9))
ds=M(); k=np.flatnonzero((r.random(q)<.004)&(pn>.2)); s_=(.005+.0006*P[k,1])[:,None]; cd=tip[k]+[0,0,.004]; ds.add(np.stack([cd+s_*[1,0,.2],cd+s_*[0,1,.3],cd-s_*[1,0,.1],cd-s_*[0,1,.5]],1).reshape(-1,3),np.zeros((len(k)*4,2)),np.concatenate([np.arange(len(k))[:,None]*4+[0,1,2],np.arange(len(k))[:,None]*4+[0,2,3]])); sh['daisy']=ds.mesh('daisy',two(diffuse([.78,.78,.72])))
fl_m=M()
for j in range(90): clump(fl_m,np.array([r.uniform(PX0,PX1),r.uniform(3.5,9),.045]),.008,1,.022,r,.3)
flt,_=mottled(64,(.46,.36,.17),8,.2,.3); sh['fallen']=fl_m.mesh('fallen',two(diffuse(np.clip(flt,0,1))))
# planting
FO=[M(),M(),M()]; FC={k:M() for k in('violet','white','pink','yellow')}
def disc(m,c,s,nrm,n=6):
    nrm=nrm/np.linalg.norm(nrm); e=np.cross(nrm,[.3,.2,1]); e/=np.linalg.norm(e); f=np.cross(nrm,e); t=np.linspace(0,2*np.pi,n,endpoint=False); rad=s*(1-.25*(np.arange(n)%2)); P=c+np.outer(np.cos(t)*rad,e)+np.outer(np.sin(t)*rad,f); m.add(np.concatenate([[c+nrm*s*.25],P]),np.repeat(r.random((1,2)),n+1,0),[[0,i+1,(i+1)%n+1] for i in range(n)])
def lavender(c,s,m='violet'):
    k=int(85*s/.3); a=r.random(k)*6.28; l=np.sqrt(r.random(k))*s*.55; b=np.stack([c[0]+.25*l*np.cos(a),c[1]+.25*l*np.sin(a),np.full(k,c[2])],1); tp=np.stack([c[0]+l*np.cos(a)*1.25,c[1]+l*np.sin(a)*1.25,c[2]+s*(1.25-.7*(l/(s*.55))**2*.6)+r.normal(0,.03,k)],1); d=np.stack([np.sin(a),-np.cos(a),0*a],1)*.0022
    FO[2].add(np.stack([b-d,b+d,tp],1).reshape(-1,3),np.repeat(r.random((k,2)),3,0),np.arange(k*3).reshape(-1,3))
    for p,bb in zip(tp,b):
        u=(p-bb)/np.linalg.norm(p-bb)
        for i in range(9): disc(FC[m],p-u*(.009*i)+r.normal(0,.0035,3),.0085,r.normal(0,1,3)+[0,0,.2],4)
def flower(c,s,m,n,fs):
    clump(FO[int(r.integers(3))],np.array(c)+[0,0,s*.42],s*.62,int(900*s/.3),.021,r,.75)
    for i in range(n): d=r.normal(0,1,3); d[2]=abs(d[2])+.25; d[1]-=.35; d/=np.linalg.norm(d); disc(FC[m],np.array(c)+[0,0,s*.42]+d*s*.64*np.array([1,1,.8])+[0,0,.02],fs*(.75+.5*r.random()),d+r.normal(0,.3,3),8)
def allium(c):
    h=.45+.35*r.random(); tp=np.array(c)+[r.normal(0,.03),r.normal(0,.03),h]; FO[0].cyl(c,tp,.005,.004,5); 
    for i in range(110): d=r.normal(0,1,3); d/=np.linalg.norm(d); disc(FC['violet'],tp+d*.047*(.75+.3*r.random()),.0085,d,5)
beds=[(-3.2,1.6,YK+.3,Y1-.6),(1.9,PX0-.3,YK+.3,Y0-.35),(PX1+.25,8.3,YK+.3,Y0-.35),(8.0,17.2,YK2+.3,Y1-.35)]
for x0,x1,y0,y1 in beds:
    k=int((x1-x0)*(y1-y0)*11)
    for i in range(k):
        x,y=r.uniform(x0,x1),r.uniform(y0,y1); f=(y-y0)/(y1-y0); t=r.random(); z=.06; pt_=np.sin(x*1.7)+.6*np.sin(x*4.1+1)
        if f<.28: (flower((x,y,z),.15+.08*r.random(),'white' if pt_>.1 else 'pink',int(14+12*r.random()),.014) if t<.75 else clump(FO[int(r.integers(3))],np.array([x,y,z+.07]),.14,500,.018,r,.8))
        elif f<.65: (lavender((x,y,z),.27+.10*r.random()) if pt_>.2 and t<.8 else flower((x,y,z),.26+.12*r.random(),['yellow','pink','white'][int(r.integers(3))],int(22*r.random()+10),.017) if t<.75 else allium((x,y,z)))
        else:
            if t<.40: blades(FO[int(r.integers(3))],np.stack([r.normal(x,.06,46),r.normal(y,.06,46),np.full(46,z)],1),.35,.72,int(x*99)%9999+i,.011,.20)
            elif t<.72: clump(FO[int(r.integers(3))],np.array([x,y,z+.25]),.26+.12*r.random(),1500,.026,r,.95)
            else: flower((x,y,z+.05),.40+.12*r.random(),['pink','white'][int(r.integers(2))],34,.022)
for s in(-1,1):                                                                  # box balls in square tubs beside the steps
    c=np.array([XC+s*1.0*1.72,Y0-.62,0]); c[0]=XC+s*1.72; TB=dr if 0 else None
tubs=M()
for s in(-1,1):
    x,y=XC+s*1.96,Y0-.98; tubs.box((x-.24,y-.24,.05),(x+.24,y+.24,.52),1.,'x',rnd=s+3); 
    for a in(-1,1):
        for b in(-1,1): tubs.box((x+a*.235-.03,y+b*.235-.03,.0),(x+a*.235+.03,y+b*.235+.03,.56),1.,'z'); tubs.cyl((x+a*.235,y+b*.235,.56),(x+a*.235,y+b*.235,.62),.032,.02,10)
    tubs.box((x-.25,y-.25,.50),(x+.25,y+.25,.535),1.,'x'); leaves(FO[0],np.array([x,y,.98]),.44,11000,.019,s+5,1.,.86); leaves(FO[1],np.array([x,y,.98]),.43,5000,.018,s+9,1.,.7)
tt,_=planks(512,4,24,(.80,.79,.75)); tt=(.35*tt+.65*np.array([.80,.79,.75]))*(1-.22*ss(.2,2,noise(512,1.4,25,2)))[...,None]; sh['tubs']=tubs.mesh('tubs',two(diffuse(tt)))
for q,c in enumerate(((.275,.375,.135),(.34,.41,.17),(.33,.40,.25))): sh['fo%d'%q]=FO[q].mesh('fo%d'%q,leafmat(leaftex(c,131+q),.65))
for k,c in dict(violet=(.47,.37,.66),white=(.88,.87,.82),pink=(.80,.47,.56),yellow=(.86,.74,.30)).items():
    t_,_=mottled(128,c,7,.10,.3); sh['f'+k]=FC[k].mesh('f'+k,leafmat(np.clip(t_,0,1),.5))
# bench by the right wing
BN=M(); bx,by=11.2,10.75
for i in range(4): BN.box((bx,by+i*.115,.43),(bx+1.5,by+i*.115+.095,.46),1.,'x',rnd=i)
for i in range(3): BN.box((bx,by+.44+i*.02,.56+i*.135),(bx+1.5,by+.465+i*.02,.66+i*.135),1.,'x',rnd=i+9)
for xx in(bx+.08,bx+1.36): BN.box((xx,by+.02,0),(xx+.06,by+.08,.62),1.,'z'); BN.box((xx,by+.40,0),(xx+.06,by+.46,.98),1.,'z'); BN.box((xx,by,.60),(xx+.06,by+.46,.64),1.,'y')
bt2,bg2=planks(1024,1,26,(.44,.38,.31)); sh['bench']=BN.mesh('bench',bump(two(diffuse(bt2)),bg2,.004))
# --- trees behind, and a line of trees behind the camera for the reflections
LV=[M(),M(),M()]; TK=M()
for j,(x,y,h,rd,m,nl_) in enumerate(((-7.5,31,13,6,0,110000),(3,36,12.5,5.5,1,50000),(14,38,12,5.5,2,50000),(26,29,12.5,5.4,0,70000),(35,33,13,6,1,60000),(21,40,13,5.6,2,40000),(-1.5,42,14,6,2,80000),(30,24,7.5,3.6,2,40000),(9,44,13,6,0,30000))): tree(LV[m],TK,(x,y,0),h,rd,300+j,.058,nl_,.32,.16)
for j,(x,y,h,rd) in enumerate(((-22,-18,11,5.5),(-13,-24,13,6),(-3,-21,11,5.5),(7,-26,13,6),(18,-22,12,6),(28,-15,12,6),(-30,-8,12,6))): tree(LV[j%3],TK,(x,y,0),h,rd,400+j,.16,7000,.34,.14)
for j in range(46): x=17.6+j*.55; clump(LV[j%3],np.array([x,20+r.normal(0,.2),.95+.1*r.random()]),1.05,3200,.034,r,1.)
for q,c in enumerate(((.27,.35,.125),(.325,.385,.15),(.235,.32,.13))): sh['lv%d'%q]=LV[q].mesh('lv%d'%q,leafmat(leaftex(c,201+q),.65))
kt_,_=mottled(512,(.26,.225,.185),103,.2,.8); sh['trunk']=TK.mesh('trunk',two(diffuse(kt_)))
env,hz,d,_=sky(-119,37,3.,cover=.10,cloud_scale=.62,seed=47,sun_lum=3.4); sh['env']=envmap(env)
sc=dict(sh); sc['sensor']=cam.sensor(W,H); print('setup %.0fs'%(time.time()-t00),flush=True)
a,info=render(sc,W,H,SPP,2,8,log=1); dn,td=denoise(a); info['oidn_s']=round(td,1); info['truth_check']=poscheck(None,cam,a,1,W,H)
t=time.time(); dep=a[...,9]; haze=1-np.exp(-np.where(dep>0,dep,0)/700); lin=dn*(1-haze[...,None])+np.array(hz)*.85*haze[...,None]
print('linear mean',lin.mean((0,1)))
DEV=dict(expo=1.28,seed=4,wb=(1.01,1,.985),vig=.26,contrast=1.05,sharp=.32,sat=.95)
img=develop(lin,**DEV); info['post_s']=round(time.time()-t,1); info['script_s']=round(time.time()-t00,1)
Ls=[('v1 door opening left edge','vertical',(XC-.8,YF,FL),(XC-.8,YF,ZD)),('v2 door opening right edge','vertical',(XC+.8,YF,FL),(XC+.8,YF,ZD)),('v3 pavilion left corner post, front left edge','vertical',(XC-2.80,YF-.02,CAP+.07),(XC-2.80,YF-.02,EZ)),('v4 pavilion right corner post, front right edge','vertical',(XC+2.80,YF-.02,CAP+.01),(XC+2.80,YF-.02,EZ))]
Ls+=[(f'v{5+j} right wing post {i} front right edge','vertical',(XC+HW+i*BAY+.045,Y1-.07,CAP+.07),(XC+HW+i*BAY+.045,Y1-.07,WEZ)) for j,i in enumerate((2,3,4,5,6))]
Ls+=[('v10 left wing post 1 front right edge','vertical',(XC-HW-BAY+.045,Y1-.07,CAP+.07),(XC-HW-BAY+.045,Y1-.07,WEZ)),('v11 pavilion post left of the door, right edge','vertical',(XC-1.86+.0425,Y0-.065,CAP+.07),(XC-1.86+.0425,Y0-.065,EZ)),
 ('h1 pavilion eaves beam lower front edge','horizontal-facing',(XC-HW-.02,YF-.05,EZ),(XC+HW+.02,YF-.05,EZ)),('h2 pavilion cornice top front edge','horizontal-facing',(XC-HW-.08,YF-.10,GZ),(XC+HW+.08,YF-.10,GZ)),('h3 right wing gutter lower front edge','horizontal-facing',(9.6,Y1-.24,WEZ+.06),(XR1,Y1-.24,WEZ+.06)),('h4 right wing gutter top front edge','horizontal-facing',(9.6,Y1-.24,WEZ+.17),(XR1,Y1-.24,WEZ+.17)),('h5 right wing plinth cap top front edge','horizontal-facing',(10.5,Y1-.17,CAP),(XR1,Y1-.17,CAP)),('h6 door opening head','horizontal-facing',(XC-.8,YF,ZD),(XC+.8,YF,ZD)),('h7 top step front edge','horizontal-facing',(XC-1.35,Y0-.44,.45),(XC+1.35,Y0-.44,.45)),('h8 lowest step front edge','horizontal-facing',(XC-1.35,Y0-1.12,.15),(XC+1.35,Y0-1.12,.15)),('h9 left wing gutter lower front edge','horizontal-facing',(XL1,Y1-.24,WEZ+.06),(XC-HW-.2,Y1-.24,WEZ+.06)),
 ('r1 path left kerb, inner top edge','horizontal-receding',(PX0,3.,.10),(PX0,YK+.11,.10)),('r2 path right kerb, inner top edge','horizontal-receding',(PX1,3.,.10),(PX1,YK+.11,.10)),('r3 pavilion left gutter, lower outer edge','horizontal-receding',(XC-HW-.16,Y0+.12,EZ+.07),(XC-HW-.16,Y1+1.2,EZ+.07)),('r4 pavilion left plinth cap, lower outer edge','horizontal-receding',(XC-HW-.06,yb-.05,PT),(XC-HW-.06,Y1-.17,PT)),('r5 path left kerb, outer top edge','horizontal-receding',(PX0-.11,3.,.10),(PX0-.11,YK+.11,.10))]
lines=truth(cam,Ls,dep)
C={n:np.array([XC+s*.8,YF,z]) for n,s,z in(('top_left',-1,ZD),('top_right',1,ZD),('bottom_right',1,FL),('bottom_left',-1,FL))}; cc={}
for n,p in C.items(): x,y,_=cam.project(p); cc[n]=[round(float(x),3),round(float(y),3)]
rect=[dict(id='door opening (clear opening of the two leaves, front face of the white frame)',width_m=DW,height_m=DH,ratio='2:3',corners=cc,world={n:list(map(float,p)) for n,p in C.items()})]
cv2.imwrite(OUT+'_look.png',cv2.resize(img[...,::-1],(1280,853),interpolation=cv2.INTER_AREA))
fl_,f35=save(img,OUT+'.jpg',cam,'2026:05:23 10:36:52')
json.dump(dict(place='the Wendlow valley (invented)',scene='botanical glasshouse front, seen turned aside',width=3000,height=2000,roll_deg=.80,pitch_deg=5.,yaw_deg=24.,hfov_deg=62.,f_px=cam.f,f_mm=round(fl_,3),f35_mm=round(f35,3),principal_point=[1500,1000],distortion=dict(model='none',k1=0.),k1_in_focal_units=0.,signs='yaw+ right, pitch+ up, roll+ camera turned clockwise seen from behind (level lines turn UP to the right, on top of their perspective)',camera_pos=[0,0,1.6],lines=lines,rectangles=rect,render=info),open(OUT+'.json','w'),indent=1)
print(info); [print(l['id'],l['kind'],l['bow_px'],l['visible_fraction']) for l in lines]; print(cc)
